import type { Range, Seconds } from '../../time/range.ts';

/** What a caption shows, word by word. */
export interface Shown extends Range {
  readonly words: readonly string[];
}

/** Captions that begin so soon after the one before may show what that showed. */
const AT_ONCE: Seconds = 0.1;
/** Of captions that roll so many of those that follow at once repeat what the one before ended with ... */
const MOST_REPEAT = 0.75;
/** ... and so many at least: a line that is said again, and again, is none. */
const LEAST_REPEATS = 4;
/** No caption shows more. */
const MOST_WORDS = 100;

/**
 * Captions that roll show a line again while the next one is said below it, or add word after word to a line: what was shown before is said
 * once all the same.
 * @param cues in order
 * @returns how many of the first words of each cue repeat what the one before shows; undefined where captions do not roll
 */
export function repeatedWords(cues: readonly Shown[]): readonly number[] | undefined {
  const follows = cues.map((cue, k) => k > 0 && cue.words.length > 0 && cue.start - (cues[k - 1] as Shown).end <= AT_ONCE);
  const repeats = cues.map((cue, k) => (follows[k] ? overlap((cues[k - 1] as Shown).words, cue.words) : 0));
  const among = follows.filter(Boolean).length;
  const repeating = repeats.filter((count) => count > 0).length;
  return repeating >= LEAST_REPEATS && repeating >= MOST_REPEAT * among ? repeats : undefined;
}

/** The most words that one caption ends with and the next one begins with. */
function overlap(before: readonly string[], next: readonly string[]): number {
  for (let count = Math.min(before.length, next.length, MOST_WORDS); count > 0; count--) {
    const from = before.length - count;
    if (before.every((word, k) => k < from || word === next[k - from])) return count;
  }
  return 0;
}
