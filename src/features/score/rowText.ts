import type { Seconds } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import type { Ink } from './ink.ts';
import type { RowPart } from './rows.ts';
import { type SetText, type SpokenWord, setText } from './setText.ts';

/** Lanes of the text under a row, in CSS pixels from its top. */
export const WORDS_TOP = 56;
export const WORD_LINE = 15;
/** Seconds: words with less silence between them are set as one text. */
const PHRASE_GAP: Seconds = 0.25;

interface RowWord extends SpokenWord {
  readonly word: Word;
  readonly index: number;
}

/** The words of a row, and how they are set. */
export interface RowText extends SetText {
  readonly spoken: readonly RowWord[];
}

interface Row {
  readonly parts: readonly RowPart[];
  readonly width: number;
  readonly rowSeconds: Seconds;
  readonly words: readonly Word[];
  readonly ink: Ink;
}

export const countText = (count: number): string => `+${count}`;

/** Sets the words of a row; one that is said across the end of a row belongs to where its middle is. */
export function rowText({ parts, width, rowSeconds, words, ink }: Row): RowText {
  const scale = width / rowSeconds;
  const spoken = parts.flatMap((part) => {
    const toX = (at: Seconds) => (part.x + Math.min(part.end, Math.max(part.start, at)) - part.start) * scale;
    const [first, last] = wordsIn(words, part);
    return words.slice(first, last).map((word, k): RowWord => {
      const { text, start, end } = word;
      return { word, index: first + k, text, from: toX(start), to: toX(end), width: widthOf(text, ink, 'wordFont') };
    });
  });
  const text = setText(spoken, width, PHRASE_GAP * scale, (count) => widthOf(countText(count), ink, 'timeFont'));
  return { ...text, spoken };
}

/** Letters this far away are still meant. */
const REACH = 8;

/** The moment of the word that is written at a place under a row; undefined where nothing is. @param y from the top of the row */
export function momentUnder({ words, spoken }: RowText, x: number, y: number): Seconds | undefined {
  const line = y < WORDS_TOP + WORD_LINE ? 0 : 1;
  let nearest: Seconds | undefined;
  let least = REACH;
  for (const { at, x: left, line: own, squeeze } of words) {
    if (own !== line) continue;
    const { word, width } = spoken[at] as RowWord;
    const right = left + width * squeeze;
    const away = Math.max(left - x, x - right, 0);
    if (away > least) continue;
    least = away;
    const share = Math.min(0.98, Math.max(0.02, (x - left) / (right - left)));
    nearest = word.start + share * (word.end - word.start);
  }
  return nearest;
}

const widths = new WeakMap<Ink, Map<string, number>>();
const MOST_WIDTHS = 5000;
let measuring: CanvasRenderingContext2D | null | undefined;

/** The width of a text, measured once: the ink is another one when its faces have loaded. */
export function widthOf(text: string, ink: Ink, face: 'wordFont' | 'timeFont'): number {
  const known = widths.get(ink) ?? new Map<string, number>();
  widths.set(ink, known);
  const key = `${face} ${text}`;
  let width = known.get(key);
  if (width === undefined) {
    measuring ??= document.createElement('canvas').getContext('2d');
    if (!measuring) return 0;
    measuring.font = ink[face];
    width = measuring.measureText(text).width;
    if (known.size >= MOST_WIDTHS) known.clear();
    known.set(key, width);
  }
  return width;
}
