import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { applyText } from '@/core/align/corrections.ts';
import { replay } from '@/core/decisions/replay.ts';
import { readTranscript } from '@/core/interchange/transcripts/words-json.ts';
import { computeHere } from '@/server/compute/computations.ts';
import { computeTasks } from '@/server/compute/computeTasks.ts';
import { db } from '@/server/db/connection.ts';
import { ArrivingWords } from '@/server/episodes/arriving.ts';
import { findEpisode } from '@/server/episodes/episode.ts';
import { append, readLog } from '@/server/episodes/log.ts';
import { placeWords } from '@/server/episodes/placing.ts';
import { askRecognition, askSpeakers, listRecognisers, RECOGNISERS } from '@/server/episodes/recognition.ts';
import { askPlacingOfAll, nameLanguage, readEpisodeWords, seekAnew, takeTranscript } from '@/server/episodes/words.ts';
import { tasksUntil } from '@/server/jobs/tasks.ts';
import { addModel, removeModel } from '@/server/media/models/addModel.ts';
import { bestOf, recogniserOf } from '@/server/media/recognise/registry.ts';
import { originalPath } from '@/server/media/store.ts';
import { makeConversation } from '../conversation.ts';
import { bring, runJobs } from '../episodes.ts';
import { folderFor } from '../media.ts';
import { VOICES, writeSpeakerModels, writeTinyModel, writeTones } from '../tinyModel.ts';

const DEMO = join(import.meta.dirname, '..', '..', 'demo', 'media');
const folder = folderFor('recognition');
const models = join(folder, 'models');
const before = process.env.ZETEMIS_MODELS_DIR;
process.env.ZETEMIS_MODELS_DIR = models;

type Tone = Parameters<typeof writeTones>[2];
const tones = Array.from({ length: 20 }, (_, k): Tone => [k % 2 === 0 ? '▁tick' : '▁tock', 1 + 3 * k, 1.4 + 3 * k]);
const source = join(folder, 'tones');

beforeAll(async () => {
  mkdirSync(source);
  writeTinyModel(source);
  await addModel(source, { folder: models });
});
beforeEach(async () => {
  await db('episodes').delete();
});
afterAll(async () => {
  if (before === undefined) delete process.env.ZETEMIS_MODELS_DIR;
  else process.env.ZETEMIS_MODELS_DIR = before;
  await db.destroy();
});

const episode = async (name = 'ticking', heard: typeof tones = tones): Promise<string> => {
  const id = await bring(writeTones(join(folder, `${name}.wav`), 62, ...heard));
  await runJobs();
  return id;
};
const texts = async (id: string) => (await readEpisodeWords(id)).words.map(({ text }) => text);

/** Part of the demo's lesson, and what is said in it. */
const [from, lasts] = [75, 25];
const lesson = readTranscript(readFileSync(join(DEMO, 'carriage-clock.words.json'), 'utf8')).words;
const said = lesson
  .filter(({ start, end }) => start > from + 0.2 && end < from + lasts - 0.2)
  .map((word) => ({ ...word, start: word.start - from, end: word.end - from }));
const excerpt = () => {
  const path = join(folder, 'excerpt.flac');
  const cut = `-v error -y -ss ${from} -t ${lasts} -i`.split(' ');
  execFileSync('ffmpeg', [...cut, join(DEMO, 'carriage-clock.mp4'), '-vn', path]);
  return bring(path);
};
const captions = () => {
  const times = (at: number) => `00:00:${at.toFixed(3).padStart(6, '0').replace('.', ',')}`;
  const lines = Array.from({ length: Math.ceil(said.length / 8) }, (_, k) => said.slice(8 * k, 8 * k + 8));
  return lines
    .map((line, k) => {
      const [first, last] = [line[0], line.at(-1)];
      return `${k + 1}\n${times(first?.start ?? 0)} --> ${times(last?.end ?? 0)}\n${line.map(({ text }) => text).join(' ')}\n`;
    })
    .join('\n');
};
const near = (words: readonly { readonly start: number }[]) =>
  words.filter(({ start }, k) => Math.abs(start - (said[k]?.start ?? 0)) < 0.06).length / said.length;

describe('words of a correction', () => {
  it('are found in the sound in which they are said, once, and are as good as any then', async () => {
    const id = await excerpt();
    await runJobs();
    // Two words were heard as one, and one as two.
    const [joined, parted] = [10, 20];
    const heard = said.flatMap((word, k) => {
      if (k === joined + 1) return [];
      if (k === joined) return [{ ...word, text: 'something', end: said[k + 1]?.end ?? 0 }];
      if (k !== parted) return [word];
      const middle = (word.start + word.end) / 2;
      return [
        { ...word, text: 'some', end: middle },
        { ...word, text: 'thing', start: middle },
      ];
    });
    await takeTranscript(id, JSON.stringify({ language: 'en', words: heard }));
    const about = ([first, last]: readonly [number, number]) => ({ start: said[first]?.start ?? 0, end: said[last]?.end ?? 0 });
    const pair = [joined, joined + 1] as const;
    const changes = [
      { about: about(pair), text: pair.map((k) => said[k]?.text).join(' ') },
      { about: about([parted, parted]), text: said[parted]?.text ?? '' },
    ];
    await append(id, [{ id: randomUUID(), type: 'correct', changes }]);
    await runJobs();
    const log = (await readLog(id)).map(({ event }) => event);
    expect(log.map(({ type }) => type)).toEqual(['correct', 'found', 'found']);
    const words = applyText((await readEpisodeWords(id)).words, replay(log).text);
    expect(words.map(({ text }) => text)).toEqual(said.map(({ text }) => text));
    for (const k of [...pair, parted]) {
      expect(words[k]).toMatchObject({ timing: 'measured', confidence: 1, error: expect.any(Number) });
      expect(Math.abs((words[k]?.start ?? 0) - (said[k]?.start ?? 0))).toBeLessThan(0.06);
    }
    // One that is taken back before its turn is looked for once it is brought back.
    const [target, text] = [
      randomUUID(),
      said
        .slice(34, 36)
        .map((word) => word.text)
        .join(' '),
    ];
    await append(id, [{ id: target, type: 'correct', changes: [{ about: about([34, 35]), text: `well ${text}` }] }]);
    await append(id, [{ id: randomUUID(), type: 'undo', target }]);
    await runJobs();
    await append(id, [{ id: randomUUID(), type: 'redo', target }]);
    await runJobs();
    const types = (await readLog(id)).slice(log.length).map(({ event }) => event.type);
    expect(types).toEqual(['correct', 'undo', 'redo', 'found']);
    await append(id, [{ id: randomUUID(), type: 'undo', target }]);
    // Nothing is looked for twice, and what is no word of this language is told to be nowhere.
    await append(id, [{ id: randomUUID(), type: 'correct', changes: [{ about: about([30, 31]), text: 'zzxq vvkkw qqjjx' }] }]);
    await runJobs();
    const later = (await readLog(id)).slice(log.length + 5).map(({ event }) => event);
    expect(later).toMatchObject([{ type: 'correct' }, { type: 'found', correction: later[0]?.id, places: [] }]);
    const wrong = applyText((await readEpisodeWords(id)).words, replay([...log, ...later]).text);
    expect(wrong.filter(({ text }) => /[qxz]{2}|kk/.test(text)).every(({ timing }) => timing === 'estimated')).toBe(true);
  });
});

describe('a model that was brought', () => {
  it('is listed behind the last resort where it hears no English, and hears a recording through the queue', async () => {
    const { recognisers } = await listRecognisers();
    expect(recognisers.map(({ id }) => id)).toEqual(['local', 'remote', 'stand-in', 'model']);
    expect(recognisers.at(-1)).toMatchObject({ unavailable: null, help: expect.stringMatching(/hears 0 words in 100 right/) });
    expect(await bestOf(RECOGNISERS, 'en')).toBe('local');
    const id = await episode();
    const variant = await recogniserOf(RECOGNISERS, 'model').variant?.('en');
    await askRecognition(id, { recogniser: 'model', language: 'en', from: 30, speakers: true });
    await runJobs();
    expect(await texts(id)).toEqual(tones.map(([token]) => token.slice(1)));
    // Who says them was asked with it.
    for (const { speaker } of (await readEpisodeWords(id)).words) expect(speaker).toMatch(/^Voice \d$/);
    // Another model hears anew.
    await removeModel('tones', models);
    await addModel(source, { folder: models, languages: ['en'] });
    const listener = recogniserOf(RECOGNISERS, 'model');
    expect(await listener.variant?.('en')).toMatch(/^[0-9a-f]{12}$/);
    expect(await listener.variant?.('en')).not.toBe(variant);
    // Words of the first parts were there before those of the last.
    expect((await findEpisode(id)).wordsVersion).toBeGreaterThan(1);
  });

  it('goes on where it was stopped: what is heard stays, and comes out the same', async () => {
    const id = await episode();
    await askRecognition(id, { recogniser: 'model', language: 'en' });
    const stop = new AbortController();
    const stopping = runJobs({ ...tasksUntil(stop.signal), ...computeTasks(computeHere) });
    for (let k = 0; k < 200 && (await texts(id)).length === 0; k++) await sleep(20);
    stop.abort();
    await stopping.catch(() => {});
    await db.raw(`update graphile_worker._private_jobs set locked_at = null, locked_by = null, run_at = now()`);
    await runJobs();
    expect(await texts(id)).toEqual(tones.map(([token]) => token.slice(1)));
  });
});

describe('text without times beside words that have some', () => {
  const chimes = [7, 8];
  const chiming = tones.map(([token, ...range], k): Tone => [chimes.includes(k) ? '▁chime' : token, ...range]);
  const said = chiming.map(([token, start, end]) => ({ text: token.slice(1), start, end }));
  const text = said.map(({ text }) => text).join(' ');
  const corrected = async (language: string) => {
    const id = await episode('chiming', chiming);
    // Two in the middle were not heard.
    await takeTranscript(id, JSON.stringify({ language, words: said.filter((_, k) => !chimes.includes(k)) }));
    const taken = await takeTranscript(id, text);
    await runJobs();
    return { taken, ...(await readEpisodeWords(id)) };
  };

  it('is put where a model says it that can tell, and keeps its language', async () => {
    await addModel(source, { folder: models, name: 'ticking', languages: ['de'] });
    const { taken, language, words } = await corrected('de');
    await removeModel('ticking', models);
    expect([taken.queued, language, words.length]).toEqual([null, 'de', tones.length]);
    for (const k of chimes) {
      expect(words[k]).toMatchObject({ text: said[k]?.text, timing: 'measured' });
      expect(Math.abs((words[k]?.start ?? 0) - (said[k]?.start ?? 0))).toBeLessThan(0.06);
    }
  });

  it('is put between the others at once where no model can tell', async () => {
    const { taken, language, words } = await corrected('fr');
    expect([taken.queued, language, words.length]).toEqual([null, 'fr', tones.length]);
    for (const k of chimes) expect(words[k]).toMatchObject({ text: said[k]?.text, timing: 'estimated' });
  });
});

describe('lines', () => {
  it('are there at once with their times, and where each word is said is found by a job', async () => {
    const id = await excerpt();
    await runJobs();
    const taken = await takeTranscript(id, captions());
    expect([taken.queued, taken.words]).toEqual([null, said.length]);
    expect((await readEpisodeWords(id)).words.every(({ timing }) => timing === 'estimated')).toBe(true);
    await runJobs();
    const { words } = await readEpisodeWords(id);
    expect(words.map(({ text }) => text)).toEqual(said.map(({ text }) => text));
    expect(words.filter(({ timing }) => timing === 'measured').length).toBeGreaterThan(0.8 * words.length);
    expect(near(words)).toBeGreaterThan(0.9);
    expect((await findEpisode(id)).wordsVersion).toBe(2);
    // What stands behind the end is no reason to lose it.
    await takeTranscript(id, `${captions()}\n99\n00:00:40,000 --> 00:00:42,000\nnext week\n`);
    await runJobs();
    expect((await texts(id)).slice(-2)).toEqual(['next', 'week']);
  }, 120_000);

  it('are looked for when somebody says that they are in a language that can be told, or asks', async () => {
    const id = await excerpt();
    await runJobs();
    await takeTranscript(id, captions());
    await nameLanguage(id, 'fi');
    await db('jobs').where({ kind: 'place' }).delete();
    await expect(askPlacingOfAll(id)).rejects.toThrow(/Nobody here can tell/);
    await nameLanguage(id, 'en');
    await runJobs();
    expect(near((await readEpisodeWords(id)).words)).toBeGreaterThan(0.9);
    await takeTranscript(id, JSON.stringify({ language: 'en', words: said }));
    await expect(askPlacingOfAll(id)).rejects.toThrow(/known already/);
  }, 120_000);

  it('that were exchanged meanwhile are not put back', async () => {
    const id = await excerpt();
    await runJobs();
    await takeTranscript(id, captions());
    const { recordings } = await findEpisode(id);
    const { medium, id: recordingId } = recordings[0] as (typeof recordings)[number];
    const path = await originalPath(medium.id, medium.linkedPath);
    const others = said.slice(0, 5).map((word) => ({ ...word, text: `${word.text}!` }));
    let kept = 0;
    await placeWords(
      { episodeId: id, recordingId, medium, path, signal: new AbortController().signal, tell: () => {} },
      async (work) => {
        if (kept++ === 0) await takeTranscript(id, JSON.stringify({ language: 'en', words: others }));
        await db.transaction(work);
      },
    );
    expect(kept).toBe(1);
    expect(await texts(id)).toEqual(others.map(({ text }) => text));
  }, 120_000);
});

describe('words that stand elsewhere than they are said', () => {
  it('are looked for in all of the sound when somebody asks, wherever they stand', async () => {
    const id = await excerpt();
    await runJobs();
    await expect(seekAnew(id)).rejects.toThrow(/no words yet/);
    // As in a version from which something was cut: half of them early, the others late.
    const half = said.length >> 1;
    const pulled = said.map((word, k) => ({
      ...word,
      start: word.start + (k < half ? 3 : 9),
      end: word.end + (k < half ? 3 : 9),
    }));
    await takeTranscript(id, JSON.stringify({ language: 'en', words: pulled }));
    expect(near((await readEpisodeWords(id)).words)).toBeLessThan(0.1);
    await seekAnew(id);
    await runJobs();
    const { words, language } = await readEpisodeWords(id);
    expect([language, words.map(({ text }) => text)]).toEqual(['en', said.map(({ text }) => text)]);
    expect(near(words)).toBeGreaterThan(0.9);
    await nameLanguage(id, 'fi');
    await expect(seekAnew(id)).rejects.toThrow(/Nobody here hears the language/);
  }, 120_000);

  it('are hardly likely where they are said nowhere', async () => {
    const id = await excerpt();
    await runJobs();
    const others = readTranscript(readFileSync(join(DEMO, 'fog-and-birds.words.json'), 'utf8')).words.slice(0, 60);
    await takeTranscript(id, others.map(({ text }) => text).join(' '));
    await runJobs();
    const { words } = await readEpisodeWords(id);
    expect(words).toHaveLength(others.length);
    expect(words.filter(({ confidence }) => confidence <= 0.1).length).toBeGreaterThan(0.8 * words.length);
  }, 120_000);
});

describe('who speaks', () => {
  it('is told apart by voice for words that have no speakers, and not without words', async () => {
    const { path, turns } = makeConversation(folder, 'two', ['slt', 'kal16'], 10);
    const id = await bring(path);
    await runJobs();
    await expect(askSpeakers(id, {})).rejects.toThrow('There are no words yet');
    const words = turns.map(({ start, end, who }) => ({ text: `said${who}`, start, end }));
    await takeTranscript(id, JSON.stringify({ language: 'en', words }));
    await askSpeakers(id, { count: 2 });
    await runJobs();
    const told = (await readEpisodeWords(id)).words;
    expect(told.map(({ text }) => text)).toEqual(words.map(({ text }) => text));
    expect(new Set(told.map(({ text, speaker }) => `${text} ${speaker}`))).toEqual(new Set(['said0 Voice 1', 'said1 Voice 2']));
  });
});

describe('who speaks, by models that were brought', () => {
  it('is heard with where two speak at once', async () => {
    const { segmentation, embedding } = writeSpeakerModels(folder);
    await addModel(segmentation, { folder: models });
    await addModel(embedding, { folder: models });
    const [tick, ing] = VOICES;
    const id = await bring(writeTones(join(folder, 'both.wav'), 20, [ing, 1, 4], [tick, 5, 9], [tick, 11, 16], [ing, 14, 18]));
    await runJobs();
    const said = [1.5, 6, 14.5, 17].map((start, k) => ({ text: `said${k}`, start, end: start + 0.5 }));
    await takeTranscript(id, JSON.stringify({ language: 'en', words: said }));
    await askSpeakers(id, {});
    await runJobs();
    const told = (await readEpisodeWords(id)).words;
    expect(told.map(({ speaker, overlapped }) => `${speaker}${overlapped ? ' and another' : ''}`)).toEqual([
      'Voice 1',
      'Voice 2',
      'Voice 2 and another',
      'Voice 1',
    ]);
    await removeModel('segmentation', models);
    await removeModel('embedding', models);
  });
});

describe('words that arrive', () => {
  it('are kept now and then, in place of those of what has been heard, and never twice at a time', async () => {
    const id = await episode();
    const { recordings } = await findEpisode(id);
    const word = (text: string, start: number) => ({
      text,
      start,
      end: start + 0.4,
      confidence: 1,
      speaker: '',
      timing: 'measured' as const,
    });
    const old = { language: 'en', words: [word('old', 1), word('older', 40)] };
    const arriving = new ArrivingWords(id, recordings[0]?.id ?? '', old, 'en');
    arriving.offer(() => ({ words: [word('new', 1)], stretches: [{ start: 0, end: 20 }] }));
    arriving.offer(() => ({ words: [word('newer', 1)], stretches: [{ start: 0, end: 60 }] }));
    await arriving.settle();
    expect(await texts(id)).toEqual(['new', 'older']);
    expect((await findEpisode(id)).wordsVersion).toBe(1);
  });
});
