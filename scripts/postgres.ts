import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { chownSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';

/** A PostgreSQL server of our own on a free loopback port. */
export interface Cluster {
  readonly url: string;
  /** true when it was running before */
  readonly found: boolean;
  stop(): Promise<void>;
}

const START_TIMEOUT_MS = 60_000;
const ROOT = process.getuid?.() === 0;

/**
 * Starts a server on its data directory, which is made when missing, or finds the one that runs on it already.
 * PostgreSQL refuses to run as root: there it runs as the `postgres` user, and its files lie where that user can
 * reach them.
 */
export async function startCluster(wanted: string, say: (line: string) => void = () => {}): Promise<Cluster> {
  const bin = programs();
  const base = ROOT ? join('/var/lib/zetemis', createHash('sha256').update(wanted).digest('hex').slice(0, 12)) : wanted;
  const owner = ROOT ? idsOf('postgres') : undefined;
  mkdirSync(base, { recursive: true });
  if (owner) chownSync(base, owner.uid, owner.gid);
  const data = join(base, 'data');
  const secret = join(base, 'password');
  if (!existsSync(join(data, 'PG_VERSION'))) {
    say(`making a database in ${data}`);
    writeFileSync(secret, randomBytes(24).toString('hex'), { mode: 0o600 });
    if (owner) chownSync(secret, owner.uid, owner.gid);
    execFileSync(
      join(bin, 'initdb'),
      ['-D', data, '-U', 'zetemis', '--auth=scram-sha-256', `--pwfile=${secret}`, '--encoding=UTF8', '--locale=C.UTF-8'],
      { stdio: 'pipe', cwd: '/', ...owner },
    );
  }
  const url = (port: number, name: string) =>
    `postgresql://zetemis:${readFileSync(secret, 'utf8').trim()}@127.0.0.1:${port}/${name}`;

  const running = runningServer(data);
  if (running) {
    say(`PostgreSQL runs already on port ${running.port}`);
    await ensureDatabase(url(running.port, 'postgres'));
    return { url: url(running.port, 'zetemis'), found: true, stop: () => stopPid(running.pid) };
  }
  const port = await freePort();
  const server = spawn(
    join(bin, 'postgres'),
    ['-D', data, '-h', '127.0.0.1', '-p', String(port), '-k', '', '-c', 'log_min_messages=warning'],
    // A session of its own: Ctrl-C in the terminal must not end the database before those who use it.
    { stdio: ['ignore', 'ignore', 'pipe'], cwd: '/', detached: true, ...owner },
  );
  await ready(server, () => ensureDatabase(url(port, 'postgres')));
  server.stderr?.resume();
  server.unref();
  say(`PostgreSQL listens on 127.0.0.1:${port}`);
  return { url: url(port, 'zetemis'), found: false, stop: () => stopPid(server.pid as number) };
}

function programs(): string {
  const root = '/usr/lib/postgresql';
  const versions = existsSync(root)
    ? readdirSync(root)
        .map(Number)
        .filter((v) => v >= 14)
    : [];
  const newest = Math.max(...versions);
  if (!Number.isFinite(newest)) throw new Error('PostgreSQL is not installed (Debian package postgresql).');
  return join(root, String(newest), 'bin');
}

function idsOf(user: string): { uid: number; gid: number } {
  const id = (flag: string) => Number(execFileSync('id', [flag, user], { encoding: 'utf8' }));
  return { uid: id('-u'), gid: id('-g') };
}

function runningServer(data: string): { pid: number; port: number } | undefined {
  try {
    const lines = readFileSync(join(data, 'postmaster.pid'), 'utf8').split('\n');
    const [pid, port] = [Number(lines[0]), Number(lines[3])];
    process.kill(pid, 0);
    return port > 0 ? { pid, port } : undefined;
  } catch {
    return undefined;
  }
}

async function ready(server: ChildProcess, attempt: () => Promise<void>): Promise<void> {
  let said = '';
  server.stderr?.on('data', (chunk) => {
    said = (said + String(chunk)).slice(-2000);
  });
  for (const deadline = Date.now() + START_TIMEOUT_MS; ; await sleep(100)) {
    if (server.exitCode !== null) throw new Error(`PostgreSQL ended while starting:\n${said}`);
    try {
      return await attempt();
    } catch (error) {
      if (Date.now() > deadline) throw error;
    }
  }
}

async function ensureDatabase(adminUrl: string): Promise<void> {
  const client = new pg.Client({ connectionString: adminUrl });
  await client.connect();
  try {
    const { rowCount } = await client.query("select 1 from pg_database where datname = 'zetemis'");
    if (!rowCount) await client.query('create database zetemis');
  } finally {
    await client.end();
  }
}

/** SIGINT is PostgreSQL's fast shutdown: connections are ended, everything is written. */
async function stopPid(pid: number): Promise<void> {
  const alive = () => {
    try {
      process.kill(pid, 0);
      return true;
    } catch {
      return false;
    }
  };
  if (!alive()) return;
  process.kill(pid, 'SIGINT');
  for (let wait = 0; wait < 300 && alive(); wait++) await sleep(100);
}

export function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer();
    probe.once('error', reject);
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number };
      probe.close(() => resolve(port));
    });
  });
}
