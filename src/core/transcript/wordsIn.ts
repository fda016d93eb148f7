import { firstAfter, type Range } from '../time/range.ts';
import type { Word } from './word.ts';

/** Indexes `[first, last)` of the words of a stretch: a word belongs where its middle is. */
export function wordsIn(words: readonly Word[], about: Range): [first: number, last: number] {
  const begin = firstAfter(words.length, (k) => (words[k] as Word).start, about.start - LONGEST_WORD);
  let [first, last] = [-1, -1];
  for (let k = begin; k < words.length && (words[k] as Word).start < about.end; k++) {
    const word = words[k] as Word;
    const middle = (word.start + word.end) / 2;
    const inside = middle >= about.start && middle < about.end;
    if (!inside) continue;
    if (first < 0) first = k;
    last = k + 1;
  }
  return first < 0 ? [begin, begin] : [first, last];
}

const LONGEST_WORD = 5;
