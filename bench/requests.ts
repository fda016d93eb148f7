import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { build } from '../scripts/build.ts';
import { migrateDatabase } from '../scripts/migrate.ts';
import { freePort, startCluster } from '../scripts/postgres.ts';
import { serve } from '../scripts/serve.ts';
import { makeTalk } from '../tests/media.ts';
import type { Line } from './line.ts';

const EPISODES = 50;
const WORDS = 20_000;
const SECONDS = 30;
const EACH_MS = 100;

/** How long somebody waits for the shelf and for an episode while other people's transcripts and hand-offs are under way. */
export async function benchRequests(work: string): Promise<Line[]> {
  const folder = join(work, 'requests');
  const media = join(folder, 'media');
  mkdirSync(media, { recursive: true });
  for (let k = 0; k < EPISODES; k++) makeTalk(join(media, `talk-${k}.wav`), [2, 1 + k / 100, 2, 1, 3]);
  build();
  const cluster = await startCluster(join(folder, 'postgres'));
  await migrateDatabase(cluster.url);
  const service = await serve({
    DATABASE_URL: cluster.url,
    PORT: String(await freePort()),
    ZETEMIS_DATA_DIR: join(folder, 'data'),
    ZETEMIS_MEDIA_DIR: media,
    LOG_LEVEL: 'silent',
  });
  const ask = (path: string, method = 'GET', body?: unknown) =>
    fetch(`${service.address}${path}`, {
      method,
      ...(body !== undefined && { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
    });
  try {
    const { entries } = await (await ask('/api/folder')).json();
    const episodes: string[] = [];
    for (const { entry } of entries)
      episodes.push((await (await ask('/api/episodes', 'POST', { from: 'folder', entry })).json()).id);
    for (let ready = false; !ready; await sleep(500)) {
      const shelf = (await (await ask('/api/episodes')).json()).episodes as { summary: unknown }[];
      ready = shelf.every(({ summary }) => summary);
    }
    let ended = false;
    const at = (k: number) => episodes[k % episodes.length] as string;
    // Words without times, which are aligned with those that are there from the second round on.
    const importing = async () => {
      const text = Array.from({ length: WORDS }, (_, k) => ['lamp', 'fog', 'pivot', 'spring', 'oil'][k % 5]).join(' ');
      for (let k = 0; !ended; k++) await (await ask(`/api/episodes/${at(k)}/words`, 'PUT', { text })).text();
    };
    const handingOver = async () => {
      for (let k = 0; !ended; k++)
        for (const format of ['otio', 'xml', 'edl', 'json'])
          await (await ask(`/api/episodes/${at(k)}/handoff?format=${format}`)).text();
    };
    const background = [importing(), handingOver(), handingOver()];
    const waits: number[] = [];
    const waiting: Promise<void>[] = [];
    for (let k = 0; k < (1000 * SECONDS) / EACH_MS; k++, await sleep(EACH_MS)) {
      const began = performance.now();
      const asked = k % 2 === 0 ? ask('/api/episodes') : ask(`/api/episodes/${at(k)}`);
      waiting.push(asked.then((answer) => answer.text()).then(() => void waits.push(performance.now() - began)));
    }
    ended = true;
    await Promise.all([...waiting, ...background]);
    waits.sort((a, b) => a - b);
    const [middle, late, slowest] = [0.5, 0.99, 1].map((share) => waits[Math.ceil(share * waits.length) - 1] ?? 0) as [
      number,
      number,
      number,
    ];
    return [
      {
        what: `a request every ${EACH_MS} ms with ${EPISODES} episodes, imports and hand-offs under way`,
        value: `${middle.toFixed(0)} ms in the middle, ${late.toFixed(0)} for 99 in 100, ${slowest.toFixed(0)} at most`,
        goal: 'none over 100 ms',
        ok: slowest <= 100,
      },
    ];
  } finally {
    await service.stop();
    await cluster.stop();
  }
}
