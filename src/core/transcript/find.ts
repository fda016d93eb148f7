import type { Range } from '../time/range.ts';
import { mapIncrementally } from './incrementalSearch.ts';
import { memoize } from './memoize.ts';
import { plainWord } from './plainWord.ts';
import { endsSentence, type Word } from './word.ts';

/** Places at which something looked for is said. */
export interface Finds {
  /** how many words it has */
  readonly count: number;
  /** index of the first word of each place, in order, none overlapping another */
  readonly firsts: readonly number[];
}

/** Finds words in the texts of an episode. The box, the score and the keys ask for the same at each letter. */
export class WordFinder {
  private readonly foundIn = new WeakMap<readonly Word[], Map<string, Finds>>();
  private readonly plain: (words: readonly Word[]) => readonly string[];

  constructor() {
    const formOf = memoize(plainWord);
    this.plain = mapIncrementally(({ text }) => formOf(text));
  }

  /** Goes through the words when there is time for it, so that the first letter does not wait. */
  ready(words: readonly Word[]): void {
    this.plain(words);
  }

  /**
   * Finds words in a row, blind to case, accents and punctuation. The last word may be begun only, as it is while somebody
   * types; with `whole` it may not.
   */
  find(words: readonly Word[], wanted: string, whole = false): Finds {
    const asked = this.foundIn.get(words) ?? new Map<string, Finds>();
    const key = `${whole} ${wanted}`;
    const known = asked.get(key) ?? search(this.plain(words), wanted, whole);
    if (asked.size > MOST_ASKED) asked.clear();
    this.foundIn.set(words, asked.set(key, known));
    return known;
  }
}

const MOST_ASKED = 20;

function search(said: readonly string[], wanted: string, whole: boolean): Finds {
  const parts = wanted.split(/\s+/u).map(plainWord).filter(Boolean);
  const last = parts.length - 1;
  if (last < 0) return { count: 0, firsts: [] };
  const [begun, first] = [!whole, parts[0] as string];
  const isOnlyBegun = begun && last === 0;
  const fits = (k: number, n: number): boolean => {
    const [word, part] = [said[k + n] as string, parts[n] as string];
    return n === last && begun ? word.startsWith(part) : word === part;
  };
  const firsts: number[] = [];
  for (let k = 0; k + last < said.length; k++) {
    // Most places end here, so that this costs more than all the rest.
    if (isOnlyBegun ? !(said[k] as string).startsWith(first) : said[k] !== first) continue;
    let n = 1;
    while (n <= last && fits(k, n)) n++;
    if (n <= last) continue;
    firsts.push(k);
    k += last;
  }
  return { count: parts.length, firsts };
}

/** Time from the first of some words to the end of the last. */
export function spanOf(words: readonly Word[], first: number, count: number): Range {
  const inside = words.slice(first, first + count);
  return { start: inside[0]?.start ?? 0, end: Math.max(...inside.map((word) => word.end)) };
}

/** Indexes `[first, last)` of the sentence that a word stands in, of one speaker. */
export function sentenceAt(words: readonly Word[], index: number): [first: number, last: number] {
  const breaks = (k: number) => {
    const [before, word] = [words[k - 1], words[k]];
    return !before || !word || endsSentence(before.text) || word.speaker !== before.speaker || word.start - before.end > 2;
  };
  let [first, last] = [index, index + 1];
  while (first > 0 && !breaks(first)) first--;
  while (last < words.length && !breaks(last)) last++;
  return [first, last];
}

/** A replacement that keeps how the words it replaces were written: their first capital and the signs round them. */
export function writtenLike(old: readonly Word[], text: string): string {
  const [first, last] = [old[0]?.text ?? '', old.at(-1)?.text ?? ''];
  const lead = /^[^\p{L}\p{N}]*/u.exec(first)?.[0] ?? '';
  const tail = /[^\p{L}\p{N}]*$/u.exec(last)?.[0] ?? '';
  const capital = /^[^\p{L}\p{N}]*\p{Lu}/u.test(first);
  const plainText = text.trim();
  if (plainText === '') return '';
  const cased = capital ? plainText.charAt(0).toUpperCase() + plainText.slice(1) : plainText;
  return `${lead}${cased}${/[^\p{L}\p{N}]$/u.test(plainText) ? '' : tail}`;
}
