import type { Range, Seconds } from '../../time/range.ts';
import { endsSentence, type Word } from '../../transcript/word.ts';
import type { Spoken } from '../words/spoken.ts';

/** Words said in one go: up to a pause, the end of a sentence or another voice. */
export interface Utterance extends Range {
  /** words `[first, last)` */
  readonly first: number;
  readonly last: number;
  /** silence on either side, endless at the ends of the words */
  readonly before: Seconds;
  readonly after: Seconds;
  /** its last word carries the sign of a sentence's end */
  readonly signed: boolean;
  /** its first and its last word are likely what was said: misheard ones say nothing about signs and capitals */
  readonly sure: boolean;
  /** it begins with a capital */
  readonly capital: boolean;
}

const PAUSE: Seconds = 0.35;
const SURE_WORD = 0.6;

export function utterancesOf({ words }: Spoken): Utterance[] {
  const found: Utterance[] = [];
  let first = 0;
  for (let k = 0; k < words.length; k++) {
    const [word, next] = [words[k] as Word, words[k + 1]];
    const after = next ? next.start - word.end : Number.POSITIVE_INFINITY;
    const signed = endsSentence(word.text);
    if (next && !signed && after < PAUSE && next.speaker === word.speaker) continue;
    const start = words[first] as Word;
    found.push({
      first,
      last: k + 1,
      start: start.start,
      end: word.end,
      before: first > 0 ? start.start - (words[first - 1] as Word).end : Number.POSITIVE_INFINITY,
      after,
      signed,
      sure: start.confidence >= SURE_WORD && word.confidence >= SURE_WORD,
      capital: /^\p{Lu}/u.test(start.text),
    });
    first = k + 1;
  }
  return found;
}
