import { execFileSync } from 'node:child_process';
import { createWriteStream, existsSync } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { describe, expect, it } from 'vitest';
import { db } from '@/server/db/connection.ts';
import { findEpisode, firstOf } from '@/server/episodes/episode.ts';
import { describeEpisode } from '@/server/episodes/episodes.ts';
import { append, readLog } from '@/server/episodes/log.ts';
import { purgeEpisode, removeEpisode } from '@/server/episodes/removal.ts';
import { changeTogether } from '@/server/episodes/together.ts';
import { latestJobs } from '@/server/jobs/jobs.ts';
import { tasksUntil } from '@/server/jobs/tasks.ts';
import { archiveOf, episodeFromArchive } from '@/server/keeping/archive.ts';
import { mediumFolder } from '@/server/media/store.ts';
import { orphans } from '@/server/sweep.ts';
import { bring, runJobs as runAll, upload } from '../episodes.ts';
import { folderFor, hearPart, makeRoom, makeTalk } from '../media.ts';

const { measure, together, proxy } = tasksUntil(new AbortController().signal);
/** Nothing here needs more than that. */
const runJobs = () => runAll({ measure, together });

const folder = folderFor('together');
const room = makeRoom(join(folder, 'room.wav'), 24);
const [orla, tobin, late] = [
  hearPart(room, 0, 20, join(folder, 'orla.wav')),
  hearPart(room, 3, 20, join(folder, 'tobin.wav')),
  hearPart(room, 9, 12, join(folder, 'late.wav')),
] as const;

const filesOf = async (episode: string) => {
  const { medium } = firstOf(await findEpisode(episode));
  return medium.facts.together?.map(({ name, place, by, sound }) => [name, Math.round(place * 1000) / 1000, by, sound]);
};
const isKept = (id: string) => existsSync(join(mediumFolder(id), 'original'));

describe('files that ran together', () => {
  it('make one recording, each where it lies, however many are asked for at once, and come apart again', async () => {
    const episode = await bring(orla);
    await runJobs();
    const { id: recording, medium: first } = firstOf(await findEpisode(episode));
    await append(episode, [{ id: crypto.randomUUID(), type: 'cut', about: { start: 4, end: 5 } }]);
    const add = async (path: string) =>
      changeTogether(episode, {
        do: 'add',
        recording,
        source: { from: 'upload', upload: await upload(path) },
        by: 'sound',
        sound: 'beside',
      });
    await add(tobin);
    // Asked before the one before is done: it becomes part of that.
    await add(late);
    await runJobs();
    expect(await filesOf(episode)).toEqual([
      ['orla.wav', 0, 'start', true],
      ['tobin.wav', 3, 'sound', true],
      ['late.wav', 9, 'sound', true],
    ]);
    const whole = firstOf(await findEpisode(episode)).medium;
    expect(whole.facts.audio.map(({ title }) => title)).toEqual(['orla', 'tobin', 'late']);
    // Until the last has ended, since there is no picture to end with.
    expect(whole.duration).toBeCloseTo(23, 1);
    expect(whole.measured).toBe(true);
    expect((await readLog(episode, 0)).map(({ event }) => event.type)).toEqual(['cut']);
    await expect(add(late)).rejects.toThrow('part of this recording already');
    // Asked again for an upload that was taken: the answer was lost, and nothing is added twice.
    const [job] = await db('jobs').where({ kind: 'together' }).whereRaw(`jsonb_exists(options, 'upload')`).select('options');
    const source = { from: 'upload', upload: job?.options.upload } as const;
    await changeTogether(episode, { do: 'add', recording, source, by: 'sound', sound: 'beside' });
    expect(await filesOf(episode)).toHaveLength(3);

    const parts = whole.facts.together?.map(({ id }) => id) as [string, string, string];
    expect(parts.every(isKept)).toBe(true);
    expect(await orphans(0)).not.toEqual(expect.arrayContaining(parts));

    await changeTogether(episode, { do: 'place', recording, file: 1, place: 3.25 });
    await runJobs();
    expect((await filesOf(episode))?.[1]).toEqual(['tobin.wav', 3.25, 'hand', true]);
    expect(isKept(whole.id)).toBe(false);
    await changeTogether(episode, { do: 'remove', recording, file: 2 });
    await runJobs();
    await changeTogether(episode, { do: 'remove', recording, file: 1 });
    expect(firstOf(await findEpisode(episode)).medium.id).toBe(first.id);
    await runJobs();
    expect(parts.map(isKept)).toEqual([true, false, false]);

    await add(tobin);
    await runJobs();
    const again = firstOf(await findEpisode(episode)).medium;
    await removeEpisode(episode);
    await purgeEpisode(episode);
    expect([again.id, ...parts].map(isKept)).toEqual([false, false, false, false]);
    expect(await db('media').whereIn('id', [again.id, ...parts])).toEqual([]);
  }, 120_000);

  it('may be seen and not heard, also a file without any sound, and what has neither is refused', async () => {
    const video = (name: string, ...options: string[]) => {
      const path = join(folder, name);
      execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', 'testsrc=s=64x36:r=25:d=9', ...options, path]);
      return path;
    };
    const front = video('front.mp4', '-i', orla, '-t', '9', '-c:a', 'aac', '-pix_fmt', 'yuv420p');
    const screen = video('screen.mkv', '-c:v', 'mpeg4', '-an');
    await expect(bring(screen)).rejects.toThrow('The video has no sound');
    const episode = await bring(front);
    await runJobs();
    const { id: recording } = firstOf(await findEpisode(episode));
    const add = async (path: string, sound: 'beside' | 'instead' | 'unused') =>
      changeTogether(episode, {
        do: 'add',
        recording,
        source: { from: 'upload', upload: await upload(path) },
        by: 'sound',
        sound,
      });
    await expect(add(tobin, 'unused')).rejects.toThrow('no picture in that file');
    // It has no sound to stand for the camera's.
    await add(screen, 'instead');
    await runJobs();
    expect(await filesOf(episode)).toEqual([
      ['front.mp4', 0, 'start', true],
      ['screen.mkv', 0, 'start', false],
    ]);
    const { medium } = firstOf(await findEpisode(episode));
    expect(medium.facts.audio).toHaveLength(1);
    const [own] = (await describeEpisode(episode)).recordings;
    // Browsers cannot show it as it is: a copy for them is asked for.
    expect(own?.angles).toMatchObject([{ name: 'screen.mkv', picture: 'pending' }]);
    const angle = own?.angles[0]?.mediaId ?? '';
    expect((await latestJobs([angle])).get(angle)?.map(({ kind }) => kind)).toEqual(['proxy']);
    await runAll({ measure, together, proxy });
    expect((await describeEpisode(episode)).recordings[0]?.angles[0]?.picture).toBe('proxy');
    await add(tobin, 'instead');
    await runJobs();
    await changeTogether(episode, { do: 'remove', recording, file: 2 });
    await runJobs();
    expect((await filesOf(episode))?.map(([name, , , sound]) => [name, sound])).toEqual([
      ['front.mp4', true],
      ['screen.mkv', false],
    ]);

    // An archive brings all of them along.
    await append(episode, [{ id: crypto.randomUUID(), type: 'angle', about: { start: 2, end: 4 }, angle }]);
    const archive = join(folder, 'bench.zetemis.tar');
    await pipeline((await archiveOf(episode, true)).stream, createWriteStream(archive));
    await removeEpisode(episode);
    await purgeEpisode(episode);
    expect(await db('media').where({ id: angle })).toEqual([]);
    const again = await episodeFromArchive(archive);
    await runAll({ measure, together, proxy });
    expect((await describeEpisode(again)).recordings[0]?.angles).toEqual([
      { mediaId: angle, name: 'screen.mkv', picture: 'proxy' },
    ]);
    expect((await readLog(again, 0)).map(({ event }) => event.type === 'angle' && event.angle)).toEqual([angle]);
    await changeTogether(again, { do: 'remove', recording: firstOf(await findEpisode(again)).id, file: 1 });
    expect((await filesOf(again)) ?? []).toEqual([]);
    await removeEpisode(again);
    await purgeEpisode(again);
    expect(await db('media').where({ id: angle })).toEqual([]);
  }, 120_000);

  it('say so where they share no sound, and change nothing where one would lie elsewhere', async () => {
    const episode = await bring(orla);
    await runJobs();
    const { id: recording, medium } = firstOf(await findEpisode(episode));
    const source = { from: 'upload', upload: await upload(makeTalk(join(folder, 'talk.wav'), [1.31, 1.17, 2.63])) } as const;
    await expect(changeTogether(episode, { do: 'add', recording, source, by: 'sound', sound: 'instead' })).rejects.toThrow(
      'Only where there is a picture',
    );
    await changeTogether(episode, { do: 'add', recording, source, by: 'sound', sound: 'beside' });
    await runJobs();
    expect((await filesOf(episode))?.[1]).toEqual(['talk.wav', 0, 'start', true]);
    const whole = firstOf(await findEpisode(episode)).medium;
    await changeTogether(episode, { do: 'place', recording, file: 1, place: -40 });
    await runJobs();
    const [job] = ((await latestJobs([whole.id])).get(whole.id) ?? []).filter(({ kind }) => kind === 'together');
    expect([job?.state, job?.error]).toEqual(['failed', '“talk.wav” would lie wholly outside the recording, at -40.0 s.']);
    expect(firstOf(await findEpisode(episode)).medium.id).toBe(whole.id);
    expect(existsSync(join(mediumFolder(whole.id), 'together.part'))).toBe(false);
    await expect(changeTogether(episode, { do: 'remove', recording, file: 0 })).rejects.toThrow('no such file');
    expect(isKept(medium.id)).toBe(true);
  }, 120_000);
});
