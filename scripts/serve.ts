import { type ChildProcess, spawn } from 'node:child_process';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';

const ROOT = join(import.meta.dirname, '..');
const START_TIMEOUT_MS = 60_000;

/** The web server and the queue worker as child processes. */
export interface Service {
  readonly address: string;
  readonly web: ChildProcess;
  readonly worker: ChildProcess;
  /** resolves with the name of the first of the two that ends by itself */
  readonly ended: Promise<string>;
  stop(): Promise<void>;
}

/** Starts both on the built application and waits until the server answers. */
export async function serve(environment: Record<string, string | undefined>): Promise<Service> {
  const env: Record<string, string | undefined> = { HOST: '127.0.0.1', ...process.env, NODE_ENV: 'production', ...environment };
  const launch = (args: string[]) =>
    // Sessions of their own: they are stopped in order, by pid, and not by the terminal.
    spawn(process.execPath, args, { cwd: ROOT, env, stdio: ['ignore', 'inherit', 'inherit'], detached: true });
  const web = launch([join(ROOT, 'dist/server/entry.mjs')]);
  const worker = launch(['--import', 'tsx', join(ROOT, 'src/workers/queue.ts')]);
  const ended = Promise.race([whenEnded(web, 'web server'), whenEnded(worker, 'queue worker')]);
  const address = `http://127.0.0.1:${env.PORT}`;
  const stop = async () => {
    await Promise.all([web, worker].map(stopProcess));
  };
  try {
    await answering(address, ended);
  } catch (error) {
    await stop();
    throw error;
  }
  return { address, web, worker, ended, stop };
}

const whenEnded = (child: ChildProcess, name: string) =>
  new Promise<string>((resolve) => child.once('exit', (code, signal) => resolve(`${name} (${signal ?? `exit code ${code}`})`)));

async function answering(address: string, ended: Promise<string>): Promise<void> {
  let down: string | undefined;
  void ended.then((name) => {
    down = name;
  });
  for (const deadline = Date.now() + START_TIMEOUT_MS; Date.now() < deadline; await sleep(100)) {
    if (down) throw new Error(`The ${down} ended while starting.`);
    const answer = await fetch(`${address}/api/episodes`).catch(() => undefined);
    if (answer?.ok) return;
  }
  throw new Error('The server did not answer within a minute.');
}

export async function stopProcess(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  child.kill('SIGTERM');
  const patience = setTimeout(() => child.kill('SIGKILL'), 8000);
  await gone;
  clearTimeout(patience);
}
