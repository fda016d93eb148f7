import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { matchWords } from '@/core/align/matching.ts';
import { timeTranscript } from '@/core/align/timeTranscript.ts';
import { wordErrors } from '@/core/align/wordErrors.ts';
import { prepare, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { silencesOf } from '@/core/detect/sound/pauses.ts';
import { readTranscript } from '@/core/interchange/transcripts/words-json.ts';
import { quantile } from '@/core/numbers/quantile.ts';
import { plainWord } from '@/core/transcript/plainWord.ts';
import type { Word } from '@/core/transcript/word.ts';
import { readMeasure } from '@/server/media/material.ts';
import { measure } from '@/server/media/measure.ts';
import { probe } from '@/server/media/probe.ts';
import { local } from '@/server/media/recognise/local.ts';
import { placedBy } from '@/server/media/recognise/placing.ts';
import { recognise } from '@/server/media/recognise/run.ts';
import { measureSpeech } from '@/server/media/speech.ts';
import { measureVoice } from '@/server/media/voice.ts';
import { captionsOf, LINES } from '../scripts/fit/heardRecordings.ts';
import type { Line } from './line.ts';

/** Recordings with their exact words; the demo's own where there are no others. */
const CORPUS = join(import.meta.dirname, '..', '..', 'shared', 'corpus');
const DEMO = join(import.meta.dirname, '..', 'demo', 'media');

function recordings(): { path: string; words: string }[] {
  if (!existsSync(CORPUS)) return [{ path: join(DEMO, 'carriage-clock.mp4'), words: join(DEMO, 'carriage-clock.words.json') }];
  return readdirSync(CORPUS)
    .filter((name) => name.endsWith('.words.json'))
    .map((name) => ({ path: join(CORPUS, name.replace('.words.json', '.flac')), words: join(CORPUS, name) }));
}

/** The local recogniser against exact words: how many come out wrong, and how fast; and the measure of held sounds. */
export async function benchWords(): Promise<Line[]> {
  const lines: Line[] = [];
  const work = mkdtempSync(join(tmpdir(), 'zetemis-bench-words-'));
  try {
    for (const { path, words } of recordings()) {
      const name = path.split('/').at(-1) ?? '';
      const facts = await probe(path);
      const curves = join(work, name);
      await measure(path, facts, curves);
      const voiceStart = performance.now();
      await measureVoice(path, facts, curves);
      const voice = facts.duration / ((performance.now() - voiceStart) / 1000);
      const prepared = prepare({
        duration: facts.duration,
        levels: await readMeasure('levels', curves, facts.audio.length),
        words: [],
      });
      const start = performance.now();
      const heard = await recognise(local, path, facts, prepared, {
        language: 'en',
        recording: name,
        folder: join(work, `${name}-parts`),
      });
      const speed = facts.duration / ((performance.now() - start) / 1000);
      const plain = (list: readonly { text: string }[]) => list.map(({ text }) => plainWord(text));
      const [said, was] = [plain(readTranscript(readFileSync(words, 'utf8')).words), plain(heard)];
      const rate = wordErrors(said, was);
      lines.push(
        {
          what: `local recogniser on ${name}`,
          value: `${speed.toFixed(1)} × real time, ${(100 * rate).toFixed(0)} % of words wrong`,
          goal: '≥ 5 × on 2 cores',
          ok: speed >= 5,
        },
        { what: `held sounds of ${name}`, value: `${voice.toFixed(0)} × real time`, goal: '≥ 30 ×', ok: voice >= 30 },
      );
    }
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
  return lines;
}

/** How exactly words of noisy transcripts stand, before and after they are moved onto the sound. */
async function edgesOf(name: string, path: string, exact: string, work: string): Promise<Edges | undefined> {
  const noisy = exact.replace('.words.json', '.words-noisy.json');
  if (!existsSync(noisy)) return undefined;
  const facts = await probe(path);
  const curves = join(work, `${name}-edges`);
  await measure(path, facts, curves);
  await measureSpeech(path, facts, curves);
  const [levels, speech] = [
    await readMeasure('levels', curves, facts.audio.length),
    await readMeasure('speech', curves, facts.audio.length),
  ];
  const [truth, words] = [exact, noisy].map((file) => readTranscript(readFileSync(file, 'utf8')).words) as [
    readonly Word[],
    readonly Word[],
  ];
  const off = (list: readonly Word[]) => {
    const plain = (all: readonly Word[]) => all.map(({ text }) => plainWord(text));
    return [...matchWords(plain(truth), plain(list))].flatMap((k, place) => {
      const apart = k < 0 ? Number.POSITIVE_INFINITY : Math.abs((list[k] as Word).start - (truth[place] as Word).start);
      // Further away it is another word of the same text.
      return apart < 1 ? [apart] : [];
    });
  };
  const { duration } = facts;
  const silences = silencesOf(preparedPauses(prepare({ duration, levels, speech, words: [] })), DEFAULT_SETTINGS, 0.1);
  const lines = timeTranscript({ passages: captionsOf(truth, LINES[0]), notes: [] }, { duration, silences }).words;
  return {
    before: off(words),
    after: off(prepare({ duration, levels, speech, words }).words()),
    guessed: off(lines),
    placed: off(await placedBy([local], path, facts, lines, { language: 'en', recording: name })),
  };
}

/** How far starts are off: of words as a recogniser gives them and moved onto the sound, of words in lines as they are guessed and found. */
interface Edges {
  readonly before: readonly number[];
  readonly after: readonly number[];
  readonly guessed: readonly number[];
  readonly placed: readonly number[];
}

/** Goals for the starts of words: the middle of all, and what 95 in 100 stay under, in seconds. */
const EDGE_GOALS = { middle: 0.025, most: 0.08 } as const;

/** Starts of words in noisy transcripts against exact ones, over all recordings. */
export async function benchEdges(): Promise<Line[]> {
  const work = mkdtempSync(join(tmpdir(), 'zetemis-bench-edges-'));
  const [before, after, guessed, placed]: [number[], number[], number[], number[]] = [[], [], [], []];
  try {
    for (const { path, words } of recordings()) {
      const found = existsSync(path) ? await edgesOf(path.split('/').at(-1) ?? '', path, words, work) : undefined;
      before.push(...(found?.before ?? []));
      after.push(...(found?.after ?? []));
      guessed.push(...(found?.guessed ?? []));
      placed.push(...(found?.placed ?? []));
    }
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
  const told = (all: readonly number[]) => [0.5, 0.95].map((share) => quantile(all, share)) as [number, number];
  const text = ([middle, most]: readonly [number, number]) =>
    `${Math.round(1000 * middle)} ms in the middle, ${Math.round(1000 * most)} ms at 95 %`;
  const held = (what: string, off: readonly number[]): Line => {
    const [middle, most] = told(off);
    return {
      what,
      value: text([middle, most]),
      goal: 'at most 25 and 80 ms',
      ok: middle <= EDGE_GOALS.middle && most <= EDGE_GOALS.most,
    };
  };
  return [
    { what: `starts of ${before.length} words as a recogniser gives them`, value: text(told(before)), goal: '', ok: true },
    held('... and moved onto the sound', after),
    { what: `starts of ${guessed.length} words in lines, shared out`, value: text(told(guessed)), goal: '', ok: true },
    held('... and found in the sound', placed),
  ];
}
