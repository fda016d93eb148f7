import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { loadDemo } from '../demo/load.ts';
import { build } from './build.ts';
import { migrateDatabase } from './migrate.ts';
import { freePort, startCluster } from './postgres.ts';
import { serve } from './serve.ts';

const ROOT = join(import.meta.dirname, '..');
/** Where the database and the media lie unless told otherwise. */
const VAR = process.env.ZETEMIS_VAR_DIR ?? join(ROOT, 'var');
const PREFERRED_PORT = 4620;
const say = (line: string) => process.stdout.write(`  ${line}\n`);

const demo = process.argv.includes('--demo');
const unknown = process.argv.slice(2).filter((argument) => argument !== '--demo');
if (unknown.length > 0) {
  process.stderr.write(`bin/start knows --demo and nothing else (not ${unknown.join(' ')})\n`);
  process.exit(2);
}

/** Undone in reverse order, once, however this ends. */
const undo: (() => Promise<void>)[] = [];
let stopping: Promise<void> | undefined;
const stop = () => {
  stopping ??= (async () => {
    for (const step of undo.reverse()) await step().catch((error) => say(String(error)));
  })();
  return stopping;
};
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
  process.on(signal, async () => {
    say('stopping');
    await stop();
    process.exit(0);
  });

try {
  mkdirSync(VAR, { recursive: true });
  let url = process.env.DATABASE_URL;
  if (url) say('using the database that DATABASE_URL names');
  else {
    const cluster = await startCluster(join(VAR, 'postgres'), say);
    undo.push(() => cluster.stop());
    url = cluster.url;
  }
  await migrateDatabase(url);
  say('database is up to date');
  build(say);
  const port = process.env.PORT ?? String(await portToUse());
  const dataDir = process.env.ZETEMIS_DATA_DIR ?? join(VAR, 'data');
  const starting = serve({
    DATABASE_URL: url,
    ZETEMIS_DATA_DIR: dataDir,
    PORT: port,
    LOG_LEVEL: process.env.LOG_LEVEL ?? 'warn',
  });
  // Known before it answers, so that a signal meanwhile leaves nothing running.
  undo.push(async () => (await starting.catch(() => undefined))?.stop());
  const service = await starting;
  if (demo) await loadDemo(service.address, say);
  process.stdout.write(`\nZetemis is at ${service.address}\nCtrl-C stops it.\n`);
  const ended = await service.ended;
  if (!stopping) {
    say(`the ${ended} ended by itself`);
    await stop();
    process.exit(1);
  }
} catch (error) {
  process.stderr.write(`\nCould not start: ${(error as Error).message}\n`);
  await stop();
  process.exit(1);
}

/** The port people get used to, when it is free. */
async function portToUse(): Promise<number> {
  const taken = await fetch(`http://127.0.0.1:${PREFERRED_PORT}/`, { signal: AbortSignal.timeout(500) }).then(
    () => true,
    (error) => (error as Error).cause?.toString().includes('ECONNREFUSED') !== true,
  );
  return taken ? freePort() : PREFERRED_PORT;
}
