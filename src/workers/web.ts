import { readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { Access, accessPath } from '@/server/access.ts';
import { config } from '@/server/config.ts';
import { isLoopback } from '@/server/http/gate.ts';
import { type Application, webServer } from '@/server/http/webServer.ts';
import { log } from '@/server/log.ts';

/** The web server's entry: the built application behind its gate. */
const DIST = join(import.meta.dirname, '../../dist');
const PATIENCE_MS = 3000;

const access = new Access(accessPath(config.dataDir));
if (!isLoopback(config.HOST) && !(await access.isGuarded())) {
  process.stderr.write(
    `HOST is ${config.HOST}, so that other machines can reach this server, and no passphrase is set.\nSet one first: bin/zetemis passphrase\n`,
  );
  process.exit(78);
}
const { handler } = (await import(pathToFileURL(join(DIST, 'server/entry.mjs')).href)) as { handler: Application };
const server = webServer(handler, join(DIST, 'client'), access, { port: config.PORT, hosts: config.hosts });
server.listen(config.PORT, config.HOST, () => log.info({ host: config.HOST, port: config.PORT }, 'web server ready'));
server.once('listening', () => {
  loadPages().catch((error) => log.warn({ error: (error as Error).message }, 'pages could not be loaded ahead'));
});
server.once('error', (error) => {
  process.stderr.write(`The web server cannot listen on ${config.HOST}:${config.PORT}: ${error.message}\n`);
  process.exit(1);
});
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () => {
    server.close(() => process.exit(0));
    // Streams of events and uploads go on where they were once it is back.
    setTimeout(() => process.exit(0), PATIENCE_MS).unref();
    server.closeIdleConnections();
  });

/** Each page and endpoint is loaded when it is first asked for, and whoever asks waits for that: all are loaded while nobody asks yet. */
async function loadPages(): Promise<void> {
  const folder = join(DIST, 'server/pages');
  for (const name of await readdir(folder, { recursive: true }))
    if (name.endsWith('.mjs')) await import(pathToFileURL(join(folder, name)).href);
}
