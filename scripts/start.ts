import type { ChildProcess } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { z } from 'zod';
import { Access, accessPath } from '@/server/access.ts';
import { loadDemo } from '../demo/load.ts';
import { build } from './build.ts';
import { migrateDatabase } from './migrate.ts';
import { freePort, startCluster } from './postgres.ts';
import { endProcess, isStill, knownProcess } from './processes.ts';
import { answering, environmentFor, launchWeb, launchWorker, stopProcess, whenEnded } from './serve.ts';
import { supervise } from './supervise.ts';

const ROOT = join(import.meta.dirname, '..');
/** Where the database and the media lie unless told otherwise. */
const VAR = resolve(process.env.ZETEMIS_VAR_DIR ?? join(ROOT, 'var'));
const PREFERRED_PORT = 4620;
const say = (line: string) => process.stdout.write(`  ${line}\n`);

const demo = process.argv.includes('--demo');
const unknown = process.argv.slice(2).filter((argument) => argument !== '--demo');
if (unknown.length > 0) {
  process.stderr.write(`bin/start knows --demo and nothing else (not ${unknown.join(' ')})\n`);
  process.exit(2);
}

const RUN_NOTE = join(VAR, 'running.json');
const known = z.object({ pid: z.int(), born: z.string() }).optional();
const runNote = z.object({ start: known, 'web server': known, 'queue worker': known, address: z.string().optional() });
type RunNote = z.infer<typeof runNote>;

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
  const other = await runningElsewhere();
  if (other) {
    const where = other.address ? `Zetemis runs already, at ${other.address}` : 'Zetemis is being started from another terminal.';
    process.stdout.write(`\n${where}\n`);
    process.exit(0);
  }
  noteRun({});
  undo.push(async () => rmSync(RUN_NOTE, { force: true }));
  let url = process.env.DATABASE_URL;
  if (url) say('using the database that DATABASE_URL names');
  else {
    const cluster = await startCluster(join(VAR, 'postgres'), say);
    // Always on the port it had: those who use it come back to it.
    undo.push(supervise('database', cluster, () => startCluster(join(VAR, 'postgres'), () => {}, cluster.port), say));
    url = cluster.url;
  }
  await migrateDatabase(url);
  say('database is up to date');
  build(say);
  const port = process.env.PORT ?? String(await portToUse());
  const dataDir = process.env.ZETEMIS_DATA_DIR ?? join(VAR, 'data');
  const env = environmentFor({
    DATABASE_URL: url,
    ZETEMIS_DATA_DIR: dataDir,
    PORT: port,
    LOG_LEVEL: process.env.LOG_LEVEL ?? 'warn',
  });
  const served = `http://${hostToAsk(env.HOST as string)}:${port}`;
  noteRun({ address: served });
  const keep = (name: 'web server' | 'queue worker', launching: (env: NodeJS.ProcessEnv) => ChildProcess) => {
    const begin = () => {
      const child = launching(env);
      noteRun({ [name]: knownProcess(child.pid as number) });
      return { ended: whenEnded(child, name), stop: () => stopProcess(child) };
    };
    const first = begin();
    undo.push(supervise(name, first, async () => begin(), say));
    return first;
  };
  const web = keep('web server', launchWeb);
  keep('queue worker', launchWorker);
  await answering(served, web.ended);
  if (demo) await loadDemoAt(served, dataDir);
  process.stdout.write(`\nZetemis is at ${served}\nCtrl-C stops it.\n`);
} catch (error) {
  process.stderr.write(`\nCould not start: ${(error as Error).message}\n`);
  await stop();
  process.exit(1);
}

/** A server with a passphrase is shown a token, which counts for as long as this takes. */
async function loadDemoAt(served: string, dataDir: string): Promise<void> {
  const access = new Access(accessPath(dataDir));
  const name = `demo ${process.pid}`;
  const token = (await access.isGuarded()) ? await access.makeToken(name) : undefined;
  await loadDemo(served, say, token).finally(() => access.removeToken(name));
}

/** Notes what runs, so that whoever comes after a start that was killed finds it. */
function noteRun(what: Partial<RunNote>): void {
  writeFileSync(RUN_NOTE, JSON.stringify({ ...readRun(), start: knownProcess(process.pid), ...what }));
}

function readRun(): RunNote {
  try {
    return runNote.parse(JSON.parse(readFileSync(RUN_NOTE, 'utf8')));
  } catch {
    return {};
  }
}

/** What listens on all addresses is asked on this machine's own. */
function hostToAsk(host: string): string {
  if (host === '0.0.0.0' || host === '::') return '127.0.0.1';
  return host.includes(':') ? `[${host}]` : host;
}

/**
 * What serves this very folder from another terminal. What a start left behind that was killed is ended first: it would hold
 * the port, and two workers of two versions would share the queue.
 */
async function runningElsewhere(): Promise<RunNote | undefined> {
  const { start, address, ...left } = readRun();
  if (start && isStill(start)) return { start, address };
  for (const [name, known] of Object.entries(left))
    if (known && isStill(known)) {
      say(`ending the ${name} of a start that was killed`);
      await endProcess(known);
    }
  rmSync(RUN_NOTE, { force: true });
  return undefined;
}

/** The port people get used to, when it is free. */
async function portToUse(): Promise<number> {
  const taken = await fetch(`http://127.0.0.1:${PREFERRED_PORT}/`, { signal: AbortSignal.timeout(500) }).then(
    () => true,
    (error) => (error as Error).cause?.toString().includes('ECONNREFUSED') !== true,
  );
  return taken ? freePort() : PREFERRED_PORT;
}
