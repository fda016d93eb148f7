import type { Word } from '../../transcript/word.ts';
import type { Settings } from '../settings.ts';
import type { Spoken } from './spoken.ts';

/** A pause on both sides of this length, and a hesitation stands by itself. */
const BETWEEN: number = 0.25;

/**
 * Leaves some fillers in on purpose, since speech without any sounds machined: none, those that stand between two pauses,
 * or every so many of one entry.
 */
export function sparing<T extends { readonly first: number; readonly count: number; readonly phrase: string }>(
  found: readonly T[],
  { words }: Spoken,
  { spare, spareEvery }: Settings,
): readonly T[] {
  if (spare === 'none') return found;
  if (spare === 'paused')
    return found.filter(({ first, count }) => {
      const [before, from] = [words[first - 1], words[first] as Word];
      const [to, after] = [words[first + count - 1] as Word, words[first + count]];
      return !before || !after || from.start - before.end < BETWEEN || after.start - to.end < BETWEEN;
    });
  const seen = new Map<string, number>();
  return found.filter(({ phrase }) => {
    const number = (seen.get(phrase) ?? 0) + 1;
    seen.set(phrase, number);
    return number % spareEvery !== 0;
  });
}
