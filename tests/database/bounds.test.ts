import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { ComputeProcess } from '@/server/compute/computeProcess.ts';
import { computeTasks } from '@/server/compute/computeTasks.ts';
import { config } from '@/server/config.ts';
import { db } from '@/server/db/connection.ts';
import { listEpisodes } from '@/server/episodes/episodes.ts';
import { append, readLog } from '@/server/episodes/log.ts';
import { wholeCut } from '@/server/episodes/snapshots.ts';
import { importTranscript } from '@/server/episodes/wordImports.ts';
import { readEpisodeWords } from '@/server/episodes/words.ts';
import { measure } from '@/server/media/measure.ts';
import { findMedium } from '@/server/media/media.ts';
import { probe } from '@/server/media/probe.ts';
import { cachedSoundPart, shrinkTo } from '@/server/media/soundCache.ts';
import { bringTalk, runJobs } from '../episodes.ts';
import { folderFor, makeTalk } from '../media.ts';

const folder = folderFor('bounds');
const id = (): string => randomUUID();
const correction = (places: number, words: number): DecisionEvent => ({
  id: id(),
  type: 'correct',
  changes: Array.from({ length: places }, (_, k) => ({
    about: { start: k / 1000, end: (k + 1) / 1000 },
    text: Array.from({ length: words }, () => 'a').join(' '),
  })),
});

afterAll(() => db.destroy());

describe('what is decided', () => {
  it('is refused when one entry, or all of them, come to more than can be computed with', async () => {
    const episode = await bringTalk(folder);
    await expect(append(episode, [correction(100, 999)])).rejects.toThrow(/write 20000 words; this one has 100 and 99900/);
    expect(await readLog(episode)).toEqual([]);
    for (let k = 0; k < 20; k++) await append(episode, [correction(20, 1000)]);
    const over = append(episode, [correction(1, 1)]);
    await expect(over).rejects.toThrow(/together can speak of 400000 places and write 400000 words/);
    const log = await readLog(episode);
    expect(log).toHaveLength(20);
    // Taking back is always possible.
    await append(episode, [{ id: id(), type: 'undo', target: log[0]?.event.id as string }]);
    expect(await readLog(episode)).toHaveLength(21);
  });

  it('counts what an earlier version has let in', async () => {
    const episode = await bringTalk(folder);
    await append(episode, [correction(20, 1000)]);
    await db('episodes').where({ id: episode }).update({ log_places: null, log_words: null });
    await append(episode, [correction(3, 2)]);
    expect(await db('episodes').where({ id: episode }).first('log_places', 'log_words')).toEqual({
      log_places: 23,
      log_words: 20_006,
    });
  });
});

describe('a cut that takes too long', () => {
  it('is ended, says so with the entry that asks the most, and is worked out when that is taken back', async () => {
    const episode = await bringTalk(folder);
    await runJobs();
    await append(episode, [{ id: id(), type: 'cut', about: { start: 0.5, end: 1 } }, correction(2000, 5)]);
    const [, heavy] = await readLog(episode);
    // The process takes longer than this to start.
    const hasty = new ComputeProcess({ seconds: 0.05, megabytes: 3000 });
    const tasks = computeTasks(hasty.compute);
    await tasks.cut({ episodeId: episode });
    const shown = (await listEpisodes()).find((one) => one.id === episode);
    expect(shown?.trouble).toMatchObject({
      why: 'It took longer than 0.05 seconds.',
      entry: { seq: 2, id: heavy?.event.id, type: 'correct', places: 2000, words: 10_000 },
    });
    await expect(wholeCut(episode)).rejects.toThrow(/cannot be worked out. It took longer/);
    // It is not tried again and again.
    await tasks.cut({ episodeId: episode });
    hasty.close();

    await append(episode, [{ id: id(), type: 'undo', target: heavy?.event.id as string }]);
    const patient = new ComputeProcess();
    await computeTasks(patient.compute).cut({ episodeId: episode });
    patient.close();
    const after = (await listEpisodes()).find((one) => one.id === episode);
    expect(after).toMatchObject({ trouble: null, isCurrent: true });
  });

  it('is ended when it takes more memory than it may', async () => {
    const episode = await bringTalk(folder);
    await runJobs();
    await append(episode, [correction(5, 5)]);
    const small = new ComputeProcess({ seconds: 120, megabytes: 60 });
    await computeTasks(small.compute).cut({ episodeId: episode });
    small.close();
    expect((await listEpisodes()).find((one) => one.id === episode)?.trouble?.why).toBe('It took more than 60 MB of memory.');
  });
});

describe('words that are brought', () => {
  it('are read by another process, and what does not fit comes back in words', async () => {
    const episode = await bringTalk(folder);
    await runJobs();
    const process = new ComputeProcess();
    const tasks = computeTasks(process.compute);
    const working = { stop: false };
    const worker = (async () => {
      while (!working.stop) await runJobs(tasks);
    })();
    const text = (word: string) => JSON.stringify({ words: [{ text: word, start: 0.1, end: 0.5 }] });
    expect(await importTranscript(episode, text('tick'))).toMatchObject({ words: 1, wordsVersion: 1, queued: null });
    await expect(importTranscript(episode, '{"words":[]}')).rejects.toThrow(/no words/);
    // NUL and half a character are in no text that can be kept.
    expect(await importTranscript(episode, text('X').replace('X', String.raw`to\u0000ck\ud800`))).toMatchObject({
      wordsVersion: 2,
    });
    working.stop = true;
    await worker;
    process.close();
    expect((await readEpisodeWords(episode)).words.map((word) => word.text)).toEqual(['tock\ufffd']);
    expect(await db('word_imports').where({ episode_id: episode })).toEqual([]);
  });
});

describe('media', () => {
  const encode = (path: string, ...options: string[]) => {
    execFileSync('ffmpeg', ['-v', 'error', '-y', '-i', makeTalk(join(folder, 'source.wav'), [2, 1, 3, 1, 2]), ...options, path]);
    return path;
  };

  it('whose times run away are refused with the reason, long before they fill memory or disk', async () => {
    const path = encode(
      join(folder, 'wild.mkv'),
      ...['-c:a', 'libvorbis', '-b:a', '64k', '-bsf:a', "setts=ts='if(eq(N,200),TS+5000000,TS)'"],
    );
    const bytes = readFileSync(path);
    // The head says nine seconds: element 0x4489, a length of eight, a float64 in milliseconds.
    const at = bytes.indexOf(Buffer.from([0x44, 0x89, 0x88]));
    bytes.writeDoubleBE(9000, at + 3);
    writeFileSync(path, bytes);
    const facts = await probe(path);
    expect(facts.duration).toBe(9);
    await expect(measure(path, facts, join(folder, 'wild-curves'))).rejects.toThrow(/runs on far beyond that/);
    expect(existsSync(join(folder, 'wild-curves'))).toBe(false);
  });

  it.each([
    ['starts at ten hours', 'late.mkv', ['-c:a', 'flac', '-output_ts_offset', '36000']],
    ['starts before nought', 'early.mkv', ['-c:a', 'flac', '-output_ts_offset', '-0.5', '-avoid_negative_ts', 'disabled']],
  ])('that %s is as long as it is', async (_, name, options) => {
    const path = encode(join(folder, name), ...options);
    const facts = await probe(path);
    expect(facts.duration).toBeCloseTo(9, 1);
    expect(await measure(path, facts, join(folder, `${name}-curves`))).toBeCloseTo(9, 1);
  });

  it('have their sound decoded once, kept within bounds, and not for those who have gone', async () => {
    const episode = await bringTalk(folder);
    const { media_id } = await db('recordings').where({ episode_id: episode }).first('media_id');
    const medium = await findMedium(media_id);
    const gone = new AbortController();
    const stillHere = new AbortController().signal;
    const parts = Array.from({ length: 8 }, (_, k) => cachedSoundPart(medium, k % 2, 0, k === 7 ? gone.signal : stillHere));
    gone.abort();
    const ends = await Promise.allSettled(parts);
    expect(ends.map(({ status }) => status)).toEqual([...Array.from({ length: 7 }, () => 'fulfilled'), 'rejected']);
    const kept = join(config.dataDir, 'cache', 'sound', medium.id);
    const first = readFileSync(join(kept, '0.flac'));
    expect(new Uint8Array(first)).toEqual(await cachedSoundPart(medium, 0, 0, stillHere));
    await shrinkTo(first.length);
    expect(existsSync(join(kept, '1.flac')) && existsSync(join(kept, '0.flac'))).toBe(false);
  });
});
