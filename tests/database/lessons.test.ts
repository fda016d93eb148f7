import { randomUUID } from 'node:crypto';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { db } from '@/server/db/connection.ts';
import { keepLessons, lessonBook, lessonsUnder, switchLesson } from '@/server/episodes/lessons.ts';
import { append, readLog } from '@/server/episodes/log.ts';
import { makeSnapshot } from '@/server/episodes/makeSnapshot.ts';
import { purgeEpisode, removeEpisode } from '@/server/episodes/removal.ts';
import { addSet, listSets, removeSet } from '@/server/episodes/sets.ts';
import { wholeCut } from '@/server/episodes/snapshots.ts';
import { bringTalk, runJobs } from '../episodes.ts';
import { folderFor } from '../media.ts';

const folder = folderFor('lessons');
const so = (wrong: number) => [{ about: 'filler/so', told: 0.9, right: 1, wrong }];

beforeEach(async () => {
  for (const table of ['lessons_off', 'lessons', 'episodes', 'settings_sets']) await db(table).delete();
});
afterAll(async () => db.destroy());

const episode = async (): Promise<string> => (await db('episodes').insert({ title: 'At the bench' }).returning('id'))[0].id;

describe('what an episode taught', () => {
  it('is kept under its settings set, newer recordings weighing more, and another set knows nothing of it', async () => {
    const show = await addSet({ name: 'Lamp room', settings: {}, forNew: false });
    await keepLessons(await episode(), 'Lamp room', so(4));
    await keepLessons(await episode(), 'Lamp room', so(9));
    const [lesson] = (await listSets()).find(({ id }) => id === show.id)?.lessons ?? [];
    expect(lesson?.wrong).toBeCloseTo(9 + 0.85 * 4, 3);
    expect(await lessonsUnder(null)).toEqual([]);
  });

  it('replaces what the same episode taught before, and goes when nothing is decided any more', async () => {
    const id = await episode();
    await keepLessons(id, undefined, so(4));
    await keepLessons(id, undefined, so(5));
    expect((await lessonsUnder(null))[0]?.wrong).toBe(5);
    await keepLessons(id, undefined, []);
    expect(await lessonsUnder(null)).toEqual([]);
  });

  it('outlives the episode, and goes with its set', async () => {
    const { id: set } = await addSet({ name: 'Lamp room', settings: {}, forNew: false });
    const id = await episode();
    await keepLessons(id, 'Lamp room', so(4));
    await removeEpisode(id);
    await purgeEpisode(id);
    expect(await lessonsUnder(set)).toHaveLength(1);
    await removeSet(set);
    expect(await db('lessons').select()).toEqual([]);
  });

  it('can be switched off and on for the next ones, and forgotten', async () => {
    await keepLessons(await episode(), undefined, [...so(4), { about: 'filler', told: 0.9, right: 1, wrong: 4 }]);
    await switchLesson({ set: null, about: 'filler/so', to: 'off' });
    expect((await lessonsUnder(null)).map(({ about }) => about)).toEqual(['filler']);
    expect((await lessonBook(null)).lessons.find(({ about }) => about === 'filler/so')?.off).toBe(true);
    await switchLesson({ set: null, about: 'filler/so', to: 'on' });
    expect(await lessonsUnder(null)).toHaveLength(2);
    await switchLesson({ set: null, about: 'filler/so', to: 'forgotten' });
    expect((await lessonBook(null)).lessons.map(({ about }) => about)).toEqual(['filler']);
    await expect(switchLesson({ set: randomUUID(), about: 'filler', to: 'off' })).rejects.toThrow(/set/);
  });
});

describe('a recording', () => {
  it('teaches by its verdicts, and the next one begins with that as part of its settings', async () => {
    const set = await addSet({ name: 'Bench', settings: { minPause: 0.4 }, forNew: true });
    const first = await bringTalk(folder);
    await runJobs();
    expect((await readLog(first, 0)).map(({ event }) => event)).toMatchObject([{ type: 'settings', name: 'Bench' }]);
    await makeSnapshot(first);
    const found = (await wholeCut(first)).cut.proposals.find(({ kind }) => kind === 'pause')?.found ?? { start: 0, end: 0 };
    const verdict = { id: randomUUID(), type: 'verdict', kind: 'pause', about: found, verdict: 'stay' } as const;
    await append(first, [verdict]);
    await makeSnapshot(first);
    expect((await lessonsUnder(set.id)).find(({ about: name }) => name === 'pause')).toMatchObject({ right: 0, wrong: 1 });
    const second = await bringTalk(folder);
    const [entry] = await readLog(second, 0);
    expect(entry?.event).toMatchObject({ type: 'settings', name: 'Bench', lessons: [{ right: 0, wrong: 1 }, {}, {}] });
    // What is taken back is no longer taught.
    await append(first, [{ id: randomUUID(), type: 'undo', target: verdict.id }]);
    await makeSnapshot(first);
    expect(await lessonsUnder(set.id)).toEqual([]);
  });
});
