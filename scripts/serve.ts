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
  const { web, worker, address } = launch(environment);
  const ended = Promise.race([whenEnded(web, 'web server'), whenEnded(worker, 'queue worker')]);
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

/** Starts both and waits for nothing. */
export function launch(environment: Record<string, string | undefined>) {
  const env = environmentFor(environment);
  return { web: launchWeb(env), worker: launchWorker(env), address: `http://127.0.0.1:${env.PORT}` };
}

export const environmentFor = (environment: Record<string, string | undefined>): Record<string, string | undefined> => ({
  HOST: '127.0.0.1',
  ...process.env,
  NODE_ENV: 'production',
  ...environment,
});

// Sessions of their own: they are stopped in order, by pid, and not by the terminal.
const launchNode = (args: string[], env: NodeJS.ProcessEnv): ChildProcess =>
  spawn(process.execPath, args, { cwd: ROOT, env, stdio: ['ignore', 'inherit', 'inherit'], detached: true });

const entry = (name: string): string[] => ['--import', 'tsx', join(ROOT, 'src/workers', name)];
export const launchWeb = (env: NodeJS.ProcessEnv): ChildProcess => launchNode(entry('web.ts'), env);
export const launchWorker = (env: NodeJS.ProcessEnv): ChildProcess => launchNode(entry('queue.ts'), env);

export const whenEnded = (child: ChildProcess, name: string) =>
  new Promise<string>((resolve) => child.once('exit', (code, signal) => resolve(`${name} (${signal ?? `exit code ${code}`})`)));

export async function answering(address: string, ended: Promise<string>): Promise<void> {
  let down: string | undefined;
  void ended.then((name) => {
    down = name;
  });
  for (const deadline = Date.now() + START_TIMEOUT_MS; Date.now() < deadline; await sleep(100)) {
    if (down) throw new Error(`The ${down} ended while starting.`);
    const answer = await fetch(`${address}/healthz`).catch(() => undefined);
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
