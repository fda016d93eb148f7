import type { Range } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';

const AROUND = 4;

/** Some words before a stretch, those in it, and some words after it. @param most words in it beyond which the middle is left out */
export function inContext(
  words: readonly Word[],
  range: Range,
  most = Number.POSITIVE_INFINITY,
): { before: string; inside: string; after: string } {
  const [first, last] = wordsIn(words, range);
  const text = (from: number, to: number) =>
    words
      .slice(Math.max(0, from), to)
      .map((word) => word.text)
      .join(' ');
  const half = Math.floor(most / 2);
  const inside = last - first > most ? `${text(first, first + half)} … ${text(last - half, last)}` : text(first, last);
  return { before: text(first - AROUND, first), inside, after: text(last, last + AROUND) };
}
