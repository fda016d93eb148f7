import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { chromium } from '@playwright/test';
import pg from 'pg';
import { build } from '../scripts/build.ts';
import { CHROMIUM } from '../scripts/chromium.ts';
import { migrateDatabase } from '../scripts/migrate.ts';
import { type Cluster, freePort, startCluster } from '../scripts/postgres.ts';
import { answering, environmentFor, launchWeb, launchWorker, stopProcess, whenEnded } from '../scripts/serve.ts';
import { faultOf, hostileRequests, numbers } from '../tests/hostile.ts';
import { hostileFiles } from '../tests/hostileMedia.ts';
import { folderFor, makeTalk } from '../tests/media.ts';

export interface SoakPlan {
  readonly seconds: number;
  readonly clients: number;
  readonly tabs: number;
  /** seconds that the database is away, and how often */
  readonly outages: number;
  readonly outageSeconds: number;
  readonly hostileRequests: number;
  readonly hostileFiles: number;
}

export interface SoakReport {
  readonly decided: number;
  /** acknowledged, and not in the log; in another order than they were sent; twice in the log */
  readonly lost: number;
  readonly outOfOrder: number;
  readonly twice: number;
  readonly jobs: number;
  readonly jobsNotDone: number;
  readonly kills: number;
  /** requests that were answered while nothing was away, and the slowest of them in milliseconds */
  readonly answered: number;
  readonly slowest: number;
  readonly over1s: number;
  readonly faults: readonly string[];
  /** megabytes that the web server holds after a warm-up, and at the end */
  readonly memory: readonly [before: number, after: number];
  /** whether the disk was filled, which takes a file system of its own */
  readonly filledDisk: boolean;
}

const CLIENT_PAUSE_MS = 60;
const DISK_MEGABYTES = 400;

/** Lets clients decide, bring recordings and look at the shelf while processes are killed, the database goes away and the disk fills. */
export async function soak(plan: SoakPlan, say: (line: string) => void = () => {}): Promise<SoakReport> {
  const folder = folderFor('soak');
  const data = join(folder, 'data');
  mkdirSync(data);
  const hasOwnDisk = mountDisk(data);
  build();
  let cluster: Cluster = await startCluster(join(folder, 'postgres'));
  await migrateDatabase(cluster.url);
  const port = String(await freePort());
  const env = environmentFor({ DATABASE_URL: cluster.url, PORT: port, ZETEMIS_DATA_DIR: data, LOG_LEVEL: 'silent' });
  const address = `http://127.0.0.1:${port}`;
  const faults: string[] = [];
  /** What is killed has no exit code. */
  const watched = (child: ReturnType<typeof launchWeb>, name: string) =>
    child.once('exit', (code) => {
      if (code) faults.push(`the ${name} ended by itself`);
    });
  const startWeb = () => watched(launchWeb(env), 'web server');
  const startWorker = () => watched(launchWorker(env), 'queue worker');
  let web = startWeb();
  const workers = [startWorker(), startWorker()];
  await answering(address, whenEnded(web, 'web server'));

  const next = numbers(7);
  /** a moment at which something was taken away or not back for long: answers then are no measure */
  let disturbedUntil = 0;
  const disturb = (seconds: number) => {
    disturbedUntil = Math.max(disturbedUntil, Date.now() + 1000 * seconds);
  };
  let ended = false;
  const count = { answered: 0, slowest: 0, over1s: 0, kills: 0, decided: 0 };

  async function ask(path: string, options: RequestInit = {}): Promise<Response | undefined> {
    const began = Date.now();
    const answer = await fetch(`${address}${path}`, { ...options, signal: AbortSignal.timeout(60_000) }).catch(() => undefined);
    const took = Date.now() - began;
    if (answer && began > disturbedUntil) {
      count.answered++;
      count.slowest = Math.max(count.slowest, took);
      if (took > 1000) count.over1s++;
      if (answer.status >= 500) faults.push(`${answer.status} ${path}`);
    }
    return answer;
  }
  const send = (path: string, method: string, body: unknown) =>
    ask(path, { method, body: JSON.stringify(body), headers: { 'content-type': 'application/json' } });

  /** Brings a recording as a browser does, again and again until it is there. */
  async function bring(name: string, seconds: number): Promise<string> {
    const bytes = readFileSync(makeTalk(join(folder, name), [seconds, 1.2, seconds, 1.1, seconds]));
    const tus = { 'tus-resumable': '1.0.0' };
    const metadata = `filename ${Buffer.from(basename(name)).toString('base64')}`;
    for (;;) {
      const opened = await ask('/api/uploads', {
        method: 'POST',
        headers: { ...tus, 'upload-length': String(bytes.length), 'upload-metadata': metadata },
      });
      const place = opened?.headers.get('location');
      for (let tries = 0; place && tries < 40; tries++) {
        const head = await ask(place, { method: 'HEAD', headers: tus });
        const offset = Number(head?.headers.get('upload-offset') ?? 0);
        if (head?.ok && offset === bytes.length) {
          const made = await send('/api/episodes', 'POST', { from: 'upload', upload: basename(place) });
          if (made?.status === 201) return (await made.json()).id;
        } else if (head?.ok)
          await ask(place, {
            method: 'PATCH',
            headers: { ...tus, 'upload-offset': String(offset), 'content-type': 'application/offset+octet-stream' },
            body: new Uint8Array(bytes.subarray(offset, offset + 200_000)),
          });
        await sleep(200);
      }
      await sleep(300);
    }
  }

  disturb(10);
  const episodes = [await bring('first.wav', 3), await bring('second.wav', 4)];
  const browser = plan.tabs > 0 ? await chromium.launch(CHROMIUM) : undefined;
  const context = await browser?.newContext();
  for (let k = 0; k < plan.tabs; k++) await (await context?.newPage())?.goto(`${address}/episodes/${episodes[0]}`);
  await sleep(3000);
  const before = memoryOf(web.pid as number);
  disturbedUntil = 0;
  const until = Date.now() + 1000 * plan.seconds;

  /** What each client knows to be saved, in its order, by episode. */
  const acknowledged = new Map<string, string[][]>();
  const client = async () => {
    const own = new Map<string, string[]>();
    for (const episode of episodes) {
      own.set(episode, []);
      acknowledged.set(episode, [...(acknowledged.get(episode) ?? []), own.get(episode) as string[]]);
    }
    while (!ended) {
      const episode = episodes[Math.floor(next() * 2)] as string;
      const events = Array.from({ length: 1 + Math.floor(next() * 3) }, () => {
        const start = Math.round(next() * 8000) / 1000;
        return { id: randomUUID(), type: 'cut', about: { start, end: start + 0.05 } };
      });
      // As a page does: the same again until it is saved.
      for (;;) {
        const answer = await send(`/api/episodes/${episode}/decisions`, 'POST', { events });
        if (answer?.ok) break;
        if (answer && answer.status < 500) faults.push(`${answer.status} for a decision`);
        await sleep(200);
      }
      own.get(episode)?.push(...events.map(({ id }) => id));
      count.decided += events.length;
      await sleep(CLIENT_PAUSE_MS);
    }
  };
  const looker = async () => {
    while (!ended) {
      await ask('/api/episodes');
      await sleep(100);
    }
  };
  const bringer = async () => {
    for (let k = 0; !ended; k++) {
      await bring(`talk-${k}.wav`, 2 + next() * 3);
      await sleep(4000);
    }
  };
  const killer = async () => {
    while (!ended) {
      await sleep(3000 + next() * 6000);
      if (ended) return;
      count.kills++;
      disturb(12);
      if (next() < 0.5) {
        await end(web);
        web = startWeb();
      } else {
        const which = next() < 0.5 ? 0 : 1;
        await end(workers[which] as (typeof workers)[number]);
        workers[which] = startWorker();
      }
    }
  };
  const outages = async () => {
    for (let k = 0; k < plan.outages && !ended; k++) {
      await sleep((1000 * plan.seconds) / (plan.outages + 1) - 1000 * plan.outageSeconds);
      if (ended) return;
      disturb(plan.outageSeconds + 25);
      await cluster.stop();
      await sleep(1000 * plan.outageSeconds);
      cluster = await startCluster(join(folder, 'postgres'), () => {}, cluster.port);
    }
  };
  const filler = async () => {
    if (!hasOwnDisk) return;
    await sleep(400 * plan.seconds);
    disturb(25);
    const path = join(data, 'filler');
    try {
      for (let k = 0; ; k++) writeFileSync(path, Buffer.alloc(4_000_000), { flag: k === 0 ? 'w' : 'a' });
    } catch {
      await sleep(10_000);
      rmSync(path, { force: true });
    }
  };
  const hostile = async () => {
    const about = { episode: randomUUID(), media: 'ab'.repeat(32), host: new URL(address).host };
    for (const request of hostileRequests(plan.hostileRequests, 41, about)) {
      if (ended) return;
      const began = Date.now();
      const fault = await faultOf(address, request);
      if (fault && began > disturbedUntil && Date.now() > disturbedUntil)
        faults.push(`${request.method} ${request.path}: ${fault}`);
      await sleep(10);
    }
    for (const file of hostileFiles(folderFor('soak-hostile'), plan.hostileFiles, 43)) {
      if (ended) return;
      const bytes = readFileSync(file);
      const tus = { 'tus-resumable': '1.0.0' };
      const opened = await ask('/api/uploads', { method: 'POST', headers: { ...tus, 'upload-length': String(bytes.length) } });
      const place = opened?.headers.get('location');
      if (!place) continue;
      await ask(place, {
        method: 'PATCH',
        headers: { ...tus, 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' },
        body: new Uint8Array(bytes),
      });
      const made = await send('/api/episodes', 'POST', { from: 'upload', upload: basename(place) });
      if (made?.status === 201) await ask(`/api/episodes/${(await made.json()).id}`, { method: 'DELETE' });
    }
  };
  const working = Promise.all([
    ...Array.from({ length: plan.clients }, client),
    looker(),
    bringer(),
    killer(),
    outages(),
    filler(),
    hostile(),
  ]);
  while (Date.now() < until) {
    await sleep(Math.min(15_000, Math.max(0, until - Date.now())));
    say(`${count.decided} decided, ${count.kills} kills, slowest ${count.slowest} ms, ${faults.length} faults`);
  }
  ended = true;
  await working;

  const client2 = new pg.Client({ connectionString: cluster.url });
  await client2.connect();
  const jobsLeft = async () =>
    Number((await client2.query("select count(*) from jobs where state in ('queued', 'running')")).rows[0].count);
  for (let wait = 0; wait < 240 && (await jobsLeft()) > 0; wait++) await sleep(500);
  const { rows: jobs } = await client2.query(
    "select count(*), count(*) filter (where state not in ('done', 'cancelled', 'failed')) as left from jobs",
  );
  let [lost, outOfOrder, twice] = [0, 0, 0];
  for (const [episode, clients] of acknowledged) {
    const { rows } = await client2.query('select event_id, seq from decisions where episode_id = $1 order by seq', [episode]);
    const places = new Map<string, number>(rows.map(({ event_id, seq }) => [event_id, Number(seq)]));
    twice += rows.length - places.size;
    for (const sent of clients) {
      lost += sent.filter((id) => !places.has(id)).length;
      outOfOrder += sent.filter((id, k) => k > 0 && (places.get(id) ?? 0) < (places.get(sent[k - 1] as string) ?? 0)).length;
    }
  }
  await client2.end();
  const after = memoryOf(web.pid as number);
  await browser?.close();
  await Promise.all([web, ...workers].map(stopProcess));
  await cluster.stop();
  if (hasOwnDisk) execFileSync('umount', [data]);
  for (const path of [folder, cluster.base]) rmSync(path, { recursive: true, force: true });
  return {
    ...count,
    lost,
    outOfOrder,
    twice,
    jobs: Number(jobs[0].count),
    jobsNotDone: Number(jobs[0].left),
    faults: faults.slice(0, 20),
    memory: [before, after],
    filledDisk: hasOwnDisk,
  };
}

async function end(child: ReturnType<typeof launchWeb>): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return;
  const gone = new Promise((resolve) => child.once('exit', resolve));
  child.kill('SIGKILL');
  await gone;
}

const memoryOf = (pid: number): number =>
  Math.round((Number(readFileSync(`/proc/${pid}/statm`, 'latin1').split(' ')[1]) * 4096) / 1e6);

/** A small disk of its own for the media store, where this machine lets us make one. */
function mountDisk(path: string): boolean {
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${DISK_MEGABYTES}m`, 'zetemis-soak', path], { stdio: 'ignore' });
    return true;
  } catch {
    return false;
  }
}
