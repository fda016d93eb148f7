import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { quantile } from './quantile.ts';

/** An edge of a word and an edge of sound this near to one another are the same. */
const SAME: Seconds = 0.15;
/** Fewer pairs than this say nothing. */
const ENOUGH = 12;
/** Four words in five taken from the sound itself reach no further into silence; those of most recognisers do. */
const MOST_REACH = 0.8;
const EXACT: Seconds = 0.03;
/** From where four words in five reach to where nearly all do. */
const WIDER = 1.3;
const MOST: Seconds = 0.06;

/**
 * How far the times of a transcript are off, by how far words beside silences reach into them. Only that side counts:
 * silence is often found late, after an echo or in music, and that is no fault of the words.
 * @param silences found by sound alone, in order
 * @returns 0 when the times can be taken at their word
 */
export function wordSlack(silences: readonly Range[], words: readonly Word[]): Seconds {
  const reaches: number[] = [];
  for (const { start, end } of silences) {
    const next = firstAfter(words.length, (k) => (words[k] as Word).start, end - SAME);
    const after = nearest(words.slice(next, next + 3).map((word) => word.start - end));
    const before = nearest(words.slice(Math.max(0, next - 4), next + 1).map((word) => word.end - start));
    if (after !== undefined) reaches.push(-after);
    if (before !== undefined) reaches.push(before);
  }
  if (reaches.length < ENOUGH) return 0;
  const reach = quantile(reaches, MOST_REACH);
  return reach <= EXACT ? 0 : Math.min(MOST, WIDER * reach);
}

function nearest(distances: readonly number[]): number | undefined {
  const [best] = [...distances].sort((a, b) => Math.abs(a) - Math.abs(b));
  return best !== undefined && Math.abs(best) <= SAME ? best : undefined;
}
