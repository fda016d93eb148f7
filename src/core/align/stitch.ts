import type { Seconds } from '../time/range.ts';
import { plainWord } from '../transcript/plainWord.ts';

interface TimedText {
  readonly text: string;
  readonly start: Seconds;
  readonly end: Seconds;
}

/** Recognisers put the same word at moments this far apart, depending on what they hear round it. */
const SAME_WITHIN: Seconds = 0.6;

/**
 * Joins what was heard in two parts of a recording that overlap. Beside its edge a part hears worse: the seam is set at the word nearest to the middle of
 * the overlap that both heard alike, and where there is none, in its middle; what was heard twice stays once.
 * @param from start of the overlap: the later part heard nothing before it
 * @param to its end: the earlier part heard nothing after it
 * @returns words in order of time
 */
export function stitch<T extends TimedText>(earlier: readonly T[], later: readonly T[], from: Seconds, to: Seconds): T[] {
  const isHeardByBoth = earlier.some(({ end }) => end > from) && later.some(({ start }) => start < to);
  if (!isHeardByBoth) return [...earlier, ...later];
  const middle = (from + to) / 2;
  const centre = ({ start, end }: TimedText): Seconds => (start + end) / 2;
  let best: { left: number; right: number; off: Seconds } | undefined;
  for (const [left, word] of earlier.entries()) {
    if (word.end < from || plainWord(word.text) === '') continue;
    for (const [right, other] of later.entries()) {
      if (other.start > to) break;
      if (plainWord(other.text) !== plainWord(word.text) || Math.abs(other.start - word.start) > SAME_WITHIN) continue;
      // The word itself is surest where it lies away from both edges.
      const off = Math.abs(centre(word) - middle) + Math.abs(other.start - word.start);
      if (!best || off < best.off) best = { left, right, off };
    }
  }
  if (best) return [...earlier.slice(0, best.left + 1), ...later.slice(best.right + 1)];
  const before = earlier.filter((word) => centre(word) < middle);
  const after = later.filter((word) => centre(word) >= middle);
  const [last, first] = [before.at(-1), after[0]];
  const isTwice = last && first && plainWord(last.text) === plainWord(first.text) && first.start - last.start <= SAME_WITHIN;
  return [...before, ...(isTwice ? after.slice(1) : after)];
}
