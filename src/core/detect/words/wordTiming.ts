import { SOFT_END, type TimingFit } from '../../align/timing.ts';
import { firstAfter, type Range, type Seconds, subtractOrdered, union } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';

/** An estimated word guards its middle half only. */
const ESTIMATED_GUARD = 0.25;
/** A recogniser less sure than this may have written what nobody said. */
const SURE_WORD = 0.7;
/** From here on it was there, or somebody has said so, whether the speech measure knows the voice or not. */
const CERTAIN_WORD = 0.95;
/** A word that ends no later than this behind a silence lasts until the next one starts, and no part of it is said there. */
const AT_ONCE: Seconds = 0.05;

/** Stretches that words hold against any pause, in order. */
export interface WordGuards {
  readonly all: readonly Range[];
  /** those of sure words with exact times: a pause may reach up to their very edges */
  readonly exact: readonly Range[];
}

/**
 * What each word holds. A certain word with an exact time holds all of it, heard or not: it may be soft. So does a sure one in
 * which somebody is heard. Where words last on into silences, neither holds more of one than may be soft. Any other word holds no more
 * than the sound under it, since its time is off by more than its edges are soft, or nobody said it: recognisers write words over
 * breaths and keys.
 * @param silences found by sound alone, in order and disjoint
 * @param speaks whether the speech measure hears somebody in a stretch at all
 */
export function guardsOf(
  words: readonly Word[],
  { exact, endsExact }: TimingFit,
  silences: readonly Range[],
  speaks: (range: Range) => boolean,
): WordGuards {
  const [sure, unsure]: [Range[], Range[]] = [[], []];
  for (const word of words) {
    const inset = word.timing === 'estimated' ? (word.end - word.start) * ESTIMATED_GUARD : 0;
    const range = { start: word.start + inset, end: word.end - inset };
    if (exact && word.confidence >= SURE_WORD && (word.confidence >= CERTAIN_WORD || speaks(word)))
      sure.push(endsExact ? range : endedBySound(range, silences));
    else unsure.push(range);
  }
  const heard = subtractOrdered(union(unsure), silences);
  const exactGuards = union(sure);
  return { all: union([...exactGuards, ...heard]), exact: exactGuards };
}

/** A word without what it lasts on into a silence, but for what may be soft: recognisers let words last until the next one. */
function endedBySound(word: Range, silences: readonly Range[]): Range {
  const into = silences[firstAfter(silences.length, (k) => (silences[k] as Range).end, word.start)];
  if (!into || into.start <= word.start || into.end + AT_ONCE < word.end || into.start + SOFT_END >= word.end) return word;
  return { start: word.start, end: into.start + SOFT_END };
}
