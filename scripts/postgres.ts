import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { chownSync, existsSync, mkdirSync, readdirSync, readFileSync, realpathSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import { isAlive } from './processes.ts';

/** A PostgreSQL server of our own on a loopback port. */
export interface Cluster {
  readonly url: string;
  readonly port: number;
  readonly pid: number;
  /** false when it ran before */
  readonly isNew: boolean;
  /** where its files lie */
  readonly base: string;
  /** resolves when the server is gone, for whatever reason */
  readonly ended: Promise<void>;
  stop(): Promise<void>;
}

const START_TIMEOUT_MS = 60_000;
const LOOK_MS = 500;
const ROOT = process.getuid?.() === 0;

/**
 * Starts a server on its data directory, which is made when missing, or finds the one that runs on it already.
 * PostgreSQL refuses to run as root: there it runs as the `postgres` user, and its files lie where that user can
 * reach them; `wanted` then keeps a note of that place.
 * @param port of a server that was here before; any free one when left out
 * @throws Error when `wanted` is a copy, or was moved without the database that belongs to it
 */
export async function startCluster(wanted: string, say: (line: string) => void = () => {}, port?: number): Promise<Cluster> {
  const bin = programs();
  const base = ROOT ? placeOutside(wanted, say) : wanted;
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
  } else say(`the database lies in ${data}`);
  const url = (on: number, name: string) => `postgresql://zetemis:${readFileSync(secret, 'utf8').trim()}@127.0.0.1:${on}/${name}`;

  const running = runningServer(data);
  if (running) {
    say(`PostgreSQL runs already on port ${running.port}`);
    await ensureDatabase(url(running.port, 'postgres'));
    const { pid } = running;
    return {
      url: url(running.port, 'zetemis'),
      port: running.port,
      pid,
      isNew: false,
      base,
      ended: whenGone(pid),
      stop: () => stopPid(pid),
    };
  }
  // Left by a server that was killed: its number may be another program's by now, and PostgreSQL would not start beside that.
  rmSync(join(data, 'postmaster.pid'), { force: true });
  const chosen = port ?? (await freePort());
  const server = spawn(
    join(bin, 'postgres'),
    ['-D', data, '-h', '127.0.0.1', '-p', String(chosen), '-k', '', '-c', 'log_min_messages=warning'],
    // A session of its own: Ctrl-C in the terminal must not end the database before those who use it.
    { stdio: ['ignore', 'ignore', 'pipe'], cwd: '/', detached: true, ...owner },
  );
  const ended = new Promise<void>((resolve) => server.once('exit', () => resolve()));
  await ready(server, () => ensureDatabase(url(chosen, 'postgres')));
  server.stderr?.resume();
  server.unref();
  say(`PostgreSQL listens on 127.0.0.1:${chosen}`);
  const pid = server.pid as number;
  return { url: url(chosen, 'zetemis'), port: chosen, pid, isNew: true, base, ended, stop: () => stopPid(pid) };
}

/**
 * Where the database of a folder lies that root cannot keep it in. The folder notes the place and the place notes the folder, so
 * that a folder that was moved finds its database, and one that was copied is known for a copy.
 */
function placeOutside(wanted: string, say: (line: string) => void): string {
  mkdirSync(wanted, { recursive: true });
  const [note, before] = [join(wanted, 'database-lies-in'), read(join(wanted, 'database-lies-in'))];
  const base = before ?? newPlace(wanted, say);
  const back = join(base, 'belongs-to');
  const isThere = existsSync(join(base, 'data', 'PG_VERSION'));
  if (before && !isThere)
    throw new Error(
      `The database of ${wanted} should lie in ${base}, and is not there. Bring it back, or restore a backup into a new folder (bin/zetemis restore). To begin anew without it, delete ${note}.`,
    );
  const owner = read(back);
  if (before && owner && owner !== wanted && read(join(owner, 'database-lies-in')) === base)
    throw new Error(
      `${wanted} is a copy of ${owner}, and the database of both lies in ${base}. Start that one, or make a second from a backup (bin/zetemis backup, restore). To begin the copy anew with an empty database, delete ${note}.`,
    );
  mkdirSync(base, { recursive: true });
  writeFileSync(note, base);
  writeFileSync(back, wanted);
  return base;
}

/** A place for a folder that has none. One that was deleted may have stood there before: its database is not that of the new one. */
function newPlace(wanted: string, say: (line: string) => void): string {
  const usual = join('/var/lib/zetemis', createHash('sha256').update(wanted).digest('hex').slice(0, 12));
  if (!existsSync(join(usual, 'data', 'PG_VERSION'))) return usual;
  say(`leaving alone what lies in ${usual}: the database of a folder that was here before`);
  return `${usual}-${randomBytes(3).toString('hex')}`;
}

const read = (path: string): string | undefined => (existsSync(path) ? readFileSync(path, 'utf8').trim() : undefined);

async function whenGone(pid: number): Promise<void> {
  while (isAlive(pid)) await sleep(LOOK_MS, undefined, { ref: false });
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
    // The number may have gone to another program since: PostgreSQL works in its data directory.
    const isOurs = realpathSync(`/proc/${pid}/cwd`) === realpathSync(data);
    return isOurs && port > 0 ? { pid, port } : undefined;
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
  if (!isAlive(pid)) return;
  process.kill(pid, 'SIGINT');
  for (let wait = 0; wait < 300 && isAlive(pid); wait++) await sleep(100);
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
