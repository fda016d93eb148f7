import { plainWord } from '../../transcript/plainWord.ts';
import type { Word } from '../../transcript/word.ts';

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
