import type { Word } from './word.ts';

/** How many words two texts share at their start and at their end: a correction makes anew only the words it writes. */
function sharedEnds(before: readonly Word[], now: readonly Word[]): { readonly head: number; readonly tail: number } {
  const shorter = Math.min(before.length, now.length);
  let head = 0;
  while (head < shorter && before[head] === now[head]) head++;
  let tail = 0;
  while (tail < shorter - head && before[before.length - 1 - tail] === now[now.length - 1 - tail]) tail++;
  return { head, tail };
}

/** Maps words one by one; for the next text only those are mapped that stand between what it shares with the last. */
export function mapIncrementally<T>(of: (word: Word) => T): (words: readonly Word[]) => readonly T[] {
  let last: { readonly words: readonly Word[]; readonly mapped: readonly T[] } = { words: [], mapped: [] };
  return (words) => {
    if (last.words === words) return last.mapped;
    const { mapped } = last;
    const { head, tail } = sharedEnds(last.words, words);
    const between = words.slice(head, words.length - tail).map(of);
    last = { words, mapped: mapped.slice(0, head).concat(between, mapped.slice(mapped.length - tail)) };
    return last.mapped;
  };
}

/** Something found from a word on; the search went on at `next`. */
export interface Hit {
  readonly first: number;
  readonly next: number;
}

/** What a search came to. */
export interface Searched<T extends Hit> {
  readonly words: readonly Word[];
  readonly hits: readonly T[];
}

export interface Search<T extends Hit> {
  /** how many words before and behind a hit's first it depends on, at most */
  readonly reach: number;
  /** what there is from a word on, if anything */
  readonly at: (index: number) => T | undefined;
  /** a hit that stands so many words further on */
  readonly moved: (hit: T, by: number) => T;
}

/**
 * Searches words from the first to the last, none in two hits. After another search of the same kind only that is
 * searched which lies within reach of what was written anew; all else is taken over.
 */
export function searchIncrementally<T extends Hit>(
  words: readonly Word[],
  last: Searched<T> | undefined,
  search: Search<T>,
): T[] {
  const { reach, at, moved } = search;
  const { head, tail } = last ? sharedEnds(last.words, words) : { head: 0, tail: 0 };
  const before = last?.hits ?? [];
  const by = words.length - (last?.words.length ?? 0);
  let known = 0;
  while (known < before.length && (before[known] as T).first < head - reach) known++;
  const hits = before.slice(0, known);
  let k = Math.max(0, head - reach, hits.at(-1)?.next ?? 0);
  while (k < words.length) {
    while (known < before.length && (before[known] as T).next + by <= k) known++;
    // Behind what is new, and in no hit of the last search: from here on both find the same.
    if (last && k >= words.length - tail + reach && k <= ((before[known]?.first ?? Number.POSITIVE_INFINITY) as number) + by)
      return hits.concat(by === 0 ? before.slice(known) : before.slice(known).map((hit) => moved(hit, by)));
    const hit = at(k);
    if (hit) hits.push(hit);
    k = hit ? hit.next : k + 1;
  }
  return hits;
}
