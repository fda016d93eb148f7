import { mkdir, readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import pMap from 'p-map';
import { z } from 'zod';
import { type PartChoices, partsOf } from '@/core/align/parts.ts';
import { soundUnder, UNHEARD_CONFIDENCE, type WordOnSound, wordsOnSound } from '@/core/align/refine.ts';
import { shareOut } from '@/core/align/share.ts';
import { stitch } from '@/core/align/stitch.ts';
import { timingFit } from '@/core/align/timing.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import { type PreparedMaterial, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { silencesOf } from '@/core/detect/sound/pauses.ts';
import { type Range, subtract, union } from '@/core/time/range.ts';
import { withWholeNotes } from '@/core/transcript/notes.ts';
import type { Word } from '@/core/transcript/word.ts';
import type { MeasureOptions } from '../measure.ts';
import { type Hearing, type RecognisedWord, type Recogniser, RecogniserError, recognisedWord } from './recogniser.ts';
import { soundPart } from './soundPart.ts';

/** Silence of this length may part two parts: few words hold one, and parts of one length end together. */
const PARTING = 0.2;

export interface RecogniseOptions extends MeasureOptions {
  readonly language: string;
  /** name of the recording, for services that want one */
  readonly recording: string;
  /** where parts that are done are kept, so that a second run goes on where the first stopped */
  readonly folder: string;
  /** the moment after which it begins to listen; what lies before comes last */
  readonly from?: number | undefined;
  /** told whenever a part is done, with a way to ask for all words so far */
  readonly onHeard?: ((soFar: () => HeardSoFar) => void) | undefined;
}

interface Part extends Range {
  readonly track: number;
  readonly file: string;
}

/** What has been heard so far, and of which stretches of the recording. */
export interface HeardSoFar {
  readonly words: readonly Word[];
  readonly stretches: readonly Range[];
}

/**
 * Recognises every track of a recording in parts, several at a time. Parts that are done are kept; when some fail, the
 * others are finished first, and running it again does the failed ones alone.
 * @returns words in order of time; where there are several tracks, each is a speaker of its own
 * @throws RecogniserError saying how many parts failed and why
 */
export async function recognise(
  recogniser: Recogniser,
  path: string,
  facts: MediaFacts,
  prepared: PreparedMaterial,
  options: RecogniseOptions,
): Promise<Word[]> {
  const { unavailable } = await recogniser.state();
  if (unavailable) throw new RecogniserError(unavailable, false);
  await mkdir(options.folder, { recursive: true });
  const { folder, from = 0 } = options;
  const laidFrom = await firstMoment(folder, from);
  const { parts, silences } = partsOfTracks(prepared, facts.audio.length, { ...recogniser, from: laidFrom }, folder);
  const total = parts.reduce((sum, { start, end }) => sum + end - start, 0);
  let done = 0;
  const failed: Error[] = [];
  const heard: RecognisedWord[][] = [];
  const open = await recogniser.open?.(options.language);
  const hearing = open?.recognise ?? recogniser.recognise;
  const work = async (k: number) => {
    const part = parts[k] as Part;
    options.signal?.throwIfAborted();
    try {
      heard[k] = (await readPart(part.file)) ?? (await recognisePart(hearing, path, facts, part, options));
    } catch (error) {
      if (options.signal?.aborted || !(error instanceof RecogniserError)) throw error;
      failed.push(error);
    }
    done += part.end - part.start;
    options.onProgress?.((done / total) * facts.duration);
    if (heard[k]) options.onHeard?.(() => heardSoFar(parts, heard, silences));
  };
  try {
    await pMap(fromMoment(parts, from), work, { concurrency: recogniser.parallel });
  } finally {
    open?.close();
  }
  if (failed.length > 0)
    throw new RecogniserError(
      `${failed.length} of ${parts.length} parts failed: ${failed[0]?.message} Trying again does those alone.`,
      true,
    );
  return wordsOf(parts, heard, silences);
}

/** Places of parts in the order in which they are heard: first what comes after a moment. */
function fromMoment(parts: readonly Part[], from: number): number[] {
  // Tracks side by side.
  const places = [...parts.keys()].sort((a, b) => (parts[a] as Part).start - (parts[b] as Part).start);
  const isLater = (k: number) => (parts[k] as Part).end > from;
  return [...places.filter(isLater), ...places.filter((k) => !isLater(k))];
}

/** The words of stretches in which every track has been heard: of others nobody could tell what is missing. */
function heardSoFar(
  parts: readonly Part[],
  heard: readonly (readonly RecognisedWord[] | undefined)[],
  silences: readonly (readonly Range[])[],
): HeardSoFar {
  const [done, waiting] = [true, false].map((isDone) => union(parts.filter((_, k) => (heard[k] !== undefined) === isDone)));
  const stretches = subtract(done as Range[], waiting as Range[]);
  const isWhole = ({ start, end }: Word) =>
    stretches.some((stretch) => stretch.start <= (start + end) / 2 && (start + end) / 2 < stretch.end);
  return { words: wordsOf(parts, heard, silences).filter(isWhole), stretches };
}

/** Words of all parts that have been heard, in order of time. */
function wordsOf(
  parts: readonly Part[],
  heard: readonly (readonly RecognisedWord[] | undefined)[],
  silences: readonly (readonly Range[])[],
): Word[] {
  const several = silences.length > 1;
  const byTrack = new Map<number, Word[]>();
  let before: Part | undefined;
  for (const [k, part] of parts.entries()) {
    const words = heard[k];
    if (!words) continue;
    const placed = placedIn(part, words, silences[part.track] ?? [], several);
    const known = byTrack.get(part.track) ?? [];
    const from = before?.track === part.track ? Math.min(part.start, before.end) : part.start;
    byTrack.set(part.track, stitch(known, placed, from, before?.track === part.track ? before.end : part.start));
    before = part;
  }
  return [...byTrack]
    .flatMap(([track, words]) => onSound(words, silences[track] ?? []))
    .sort((a, b) => a.start - b.start || a.end - b.end);
}

/** Words of a track moved onto its sound, with what can be relied on: those that were written over silence are hardly likely. */
function onSound(words: readonly Word[], silences: readonly Range[]): Word[] {
  const timing = timingFit(silences, words, words.at(-1)?.end ?? 0);
  const refined = wordsOnSound(words, timing, silences);
  const found = soundUnder(refined, timing, silences);
  return refined.map((word, k) => {
    const { isUnheard, error } = found[k] as WordOnSound;
    return {
      ...word,
      error: milliseconds(error),
      confidence: isUnheard ? Math.min(word.confidence, UNHEARD_CONFIDENCE) : word.confidence,
    };
  });
}

const milliseconds = (at: number): number => Math.round(at * 1000) / 1000;

/** Words of a part on the clock of the recording; those of whose times nothing is known share its sound. */
function placedIn(part: Part, words: readonly RecognisedWord[], silences: readonly Range[], several: boolean): Word[] {
  const isUntimed = words.some(({ timing }) => timing === 'unknown');
  const shares = isUntimed
    ? shareOut(
        words.map(({ text }) => text),
        part,
        silences,
      )
    : [];
  return words.map((word, k): Word => {
    const { start, end } = shares[k] ?? { start: part.start + word.start, end: part.start + Math.max(word.start, word.end) };
    return {
      text: word.text,
      start: milliseconds(start),
      end: milliseconds(end),
      confidence: Math.round(word.confidence * 100) / 100,
      speaker: several ? `Track ${part.track + 1}` : (word.speaker ?? ''),
      timing: isUntimed || word.timing ? 'estimated' : 'measured',
    };
  });
}

/** The moment that parts were laid from when it was first begun: from elsewhere there would be others, and what is done would not count. */
async function firstMoment(folder: string, from: number): Promise<number> {
  const file = join(folder, 'from.txt');
  const known = Number((await readFile(file, 'utf8').catch(() => '')) || Number.NaN);
  if (Number.isFinite(known)) return known;
  await writeFile(file, String(from));
  return from;
}

function partsOfTracks(prepared: PreparedMaterial, tracks: number, heard: PartChoices, folder: string) {
  const silences = Array.from({ length: tracks }, (_, track) => {
    // What another microphone hears better is left to that one.
    const settings = { ...DEFAULT_SETTINGS, listen: String(track + 1) };
    return silencesOf(preparedPauses(prepared), settings, PARTING);
  });
  const parts = silences.flatMap((silent, track) =>
    partsOf(prepared.material.duration, silent, heard).map(({ start, end }): Part => {
      const name = [track + 1, ...[start, end].map((at) => Math.round(at * 1000))].join('-');
      return { track, start, end, file: join(folder, `${name}.json`) };
    }),
  );
  return { parts, silences };
}

async function readPart(file: string): Promise<RecognisedWord[] | undefined> {
  const text = await readFile(file, 'utf8').catch(() => undefined);
  return text === undefined ? undefined : z.array(recognisedWord).parse(JSON.parse(text));
}

function recognisePart(
  hearing: Hearing,
  path: string,
  facts: MediaFacts,
  part: Part,
  { language, recording, signal }: RecogniseOptions,
): Promise<RecognisedWord[]> {
  return soundPart(path, [facts.audio[part.track] ?? { index: 0 }], part, signal, async (wav) => {
    const words = withWholeNotes(await hearing({ path: wav, recording, offset: part.start }, language, signal));
    await writeFile(`${part.file}.part`, JSON.stringify(words));
    await rename(`${part.file}.part`, part.file);
    return words;
  });
}
