import { plainWord } from '../transcript/plainWord.ts';
import type { Word } from '../transcript/word.ts';
import { type Programme, pieceAt, toProgramme } from './programme.ts';

/** The words that the programme keeps, at the times at which they are heard in it. */
export function wordsLeft(words: readonly Word[], programme: Programme): Word[] {
  return words.flatMap((word): Word[] => {
    const middle = (word.start + word.end) / 2;
    const piece = programme.pieces[pieceAt(programme, toProgramme(programme, middle))];
    if (!piece || middle < piece.start || middle >= piece.end || piece.hole || piece.sound) return [];
    const [start, end] = [word.start, word.end].map((at) => Math.round(toProgramme(programme, at) * 1000) / 1000) as [
      number,
      number,
    ];
    return [{ ...word, start, end }];
  });
}

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
