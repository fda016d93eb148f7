import type { Range, Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import type { TimingFit } from './timing.ts';

/** A word keeps at least this much when an edge of it is moved. */
const LEAST_LEFT: Seconds = 0.04;
/** An edge moves outwards to the sound's own by up to this many times the error that four in five edges stay under ... */
const REACH = 2;
/** ... and by no more than this. */
const MOST_REACH: Seconds = 0.35;

/**
 * Words with their edges moved to the sound beside them, where their times are not exact: a word that reaches into a silence
 * ends where the silence starts, and one that starts late or ends early is stretched over the sound that is left. Edges inside
 * running speech stay: nothing there tells.
 * @param silences found by sound alone, in order and disjoint
 * @returns the very same words where nothing moves
 */
export function wordsOnSound(words: readonly Word[], { exact, error }: TimingFit, silences: readonly Range[]): readonly Word[] {
  if (exact || words.length === 0) return words;
  const reach = Math.min(MOST_REACH, REACH * error);
  const starts = words.map(({ start }) => start);
  const ends = words.map(({ end }) => end);
  let first = 0;
  for (const silence of silences) {
    while (first < words.length && (ends[first] as Seconds) < silence.start - reach) first++;
    trimInto(words, starts, ends, silence, first);
    stretchTo(starts, ends, silence, first, reach);
  }
  // Words that overlap may have changed places.
  for (let k = words.length - 2; k >= 0; k--) starts[k] = Math.min(starts[k] as Seconds, starts[k + 1] as Seconds);
  return words.map((word, k) =>
    starts[k] === word.start && ends[k] === word.end ? word : { ...word, start: starts[k] as Seconds, end: ends[k] as Seconds },
  );
}

/** Takes back what reaches into a silence; a word on both its sides stays where the larger part of it is. */
function trimInto(words: readonly Word[], starts: Seconds[], ends: Seconds[], { start, end }: Range, first: number): void {
  for (let k = first; k < words.length && (words[k] as Word).start < end; k++) {
    const [from, to] = [starts[k] as Seconds, ends[k] as Seconds];
    const [before, after] = [start - from, to - end];
    if (before >= LEAST_LEFT && before >= after) ends[k] = Math.min(to, start);
    else if (after >= LEAST_LEFT) starts[k] = Math.max(from, end);
  }
}

/** Stretches the last word before a silence and the first one behind it up to the silence, if they are that near. */
function stretchTo(starts: Seconds[], ends: Seconds[], { start, end }: Range, first: number, reach: Seconds): void {
  let before = -1;
  let after = -1;
  for (let k = first; k < starts.length && after < 0; k++) {
    if ((ends[k] as Seconds) <= start) before = k;
    if ((starts[k] as Seconds) >= end) after = k;
  }
  if (
    before >= 0 &&
    start - (ends[before] as Seconds) <= reach &&
    (before + 1 === starts.length || (starts[before + 1] as Seconds) >= start)
  )
    ends[before] = start;
  if (after >= 0 && (starts[after] as Seconds) - end <= reach && (after === 0 || (ends[after - 1] as Seconds) <= end))
    starts[after] = end;
}

/** Nobody can be surer than this of a word where nothing is heard. */
export const UNHEARD_CONFIDENCE = 0.1;

/** What the sound says of a word. */
export interface WordOnSound {
  /** nothing is heard where it stands: a recogniser wrote it over silence */
  readonly isUnheard: boolean;
  /** seconds that its edges are expected to be off: four in five less */
  readonly error: Seconds;
}

/** Edges that the sound gives, and those of exact times, are off by so much: levels look 15 ms to either side. */
const EDGE_ERROR: Seconds = 0.02;
/** A word as short as this under sound was said, however soft. */
const LEAST_SOUND: Seconds = 0.03;

/**
 * How far words can be relied on, once they are refined: whether anything is heard where each stands, and by how much its edges may be off.
 * @param words as `wordsOnSound` gives them, in order
 * @param silences found by sound alone, in order and disjoint
 */
export function soundUnder(words: readonly Word[], { exact, error }: TimingFit, silences: readonly Range[]): WordOnSound[] {
  let first = 0;
  return words.map(({ start, end, timing }) => {
    while (first < silences.length && (silences[first] as Range).end <= start) first++;
    let silent = 0;
    let isBeside = false;
    for (let k = Math.max(0, first - 1); k < silences.length && (silences[k] as Range).start <= end; k++) {
      const silence = silences[k] as Range;
      silent += Math.max(0, Math.min(end, silence.end) - Math.max(start, silence.start));
      isBeside ||= silence.end === start || silence.start === end;
    }
    const isMeasured = timing === 'measured' && (exact || isBeside);
    return {
      isUnheard: 2 * silent > end - start && end - start - silent < LEAST_SOUND,
      error: isMeasured
        ? EDGE_ERROR
        : Math.max(EDGE_ERROR, timing === 'estimated' ? (end - start) / 2 : Math.min(error, (end - start) / 2)),
    };
  });
}
