import type { Seconds } from '../time/range.ts';
import { plainWord } from '../transcript/plainWord.ts';
import type { Word } from '../transcript/word.ts';
import { type Piece, type Programme, pieceBefore } from './programme.ts';

/** The words that the programme keeps, at the times at which they are heard in it, in that order. */
export function wordsLeft(words: readonly Word[], programme: Programme): Word[] {
  const left = words.flatMap((word): Word[] => {
    const middle = (word.start + word.end) / 2;
    const index = pieceBefore(programme, middle);
    const piece = programme.pieces[index];
    if (!piece || middle >= piece.end || piece.hole || piece.sound) return [];
    const heardAt = (at: Seconds) => momentIn(piece, programme.offsets[index] as number, at);
    return [{ ...word, start: heardAt(word.start), end: heardAt(word.end) }];
  });
  return programme.byClock ? left.sort((a, b) => a.start - b.start) : left;
}

/** A moment of a piece in programme time, in whole milliseconds; what lies outside it is heard at its edge. */
const momentIn = ({ start, end, rate }: Piece, offset: Seconds, at: Seconds): Seconds =>
  Math.round((offset + (Math.max(start, Math.min(end, at)) - start) / rate) * 1000) / 1000;

/** Words of a list with all letters but the first made asterisks. Case, accents and punctuation do not matter. */
export function masked(words: readonly Word[], list: readonly string[]): Word[] {
  const hidden = new Set(list.map(plainWord).filter((word) => word !== ''));
  return words.map((word) => (hidden.has(plainWord(word.text)) ? { ...word, text: maskedText(word.text) } : word));
}

function maskedText(text: string): string {
  let first = true;
  return [...text.normalize('NFC')]
    .map((sign) => {
      if (!/[\p{L}\p{N}]/u.test(sign)) return sign;
      if (first) {
        first = false;
        return sign;
      }
      return '*';
    })
    .join('');
}
