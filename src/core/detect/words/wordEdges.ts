import type { Range, Seconds } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import type { TimingFit } from './wordTiming.ts';

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
