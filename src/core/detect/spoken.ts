import { plainWord } from '../align/matching.ts';
import type { Seconds } from '../time/range.ts';
import { mapAgain } from '../transcript/again.ts';
import { remembered } from '../transcript/remembered.ts';
import { endsSentence, type Word } from '../transcript/word.ts';
import { quantile } from './quantile.ts';

/** The words with what everybody who judges them asks about, worked out once. */
export interface Spoken {
  readonly language: string;
  readonly words: readonly Word[];
  /** each word as it is compared: small letters, apostrophes, nothing else */
  readonly plain: readonly string[];
  /** whether sentences start with capitals here, and whether they end with signs */
  readonly capitals: boolean;
  readonly punctuated: boolean;
  /** the pause that this speaker makes between two words of a sentence, when one is made */
  readonly naturalGap: Seconds;
}

/** Pauses between words shorter than this are none; longer ones are no part of the flow. */
const LEAST_GAP: Seconds = 0.1;
const MOST_GAP: Seconds = 0.6;
const USUAL_GAP: Seconds = 0.2;
/** Fewer signs than one in so many words, and the text has none to speak of. */
const WORDS_A_SIGN = 40;

/** A word in small letters with its apostrophes (`don't`). */
export const spokenForm = remembered((word) =>
  word
    .split(/['’]/)
    .map(plainWord)
    .join("'")
    .replace(/^'+|'+$/g, ''),
);

const spokenForms = mapAgain(({ text }) => spokenForm(text));

export function spokenOf(words: readonly Word[], language: string): Spoken {
  let [starts, capitals, signs] = [0, 0, 0];
  const gaps: number[] = [];
  let before: Word | undefined;
  for (const word of words) {
    if (before && endsSentence(before.text)) {
      signs++;
      starts++;
      if (/^\p{Lu}/u.test(word.text)) capitals++;
    } else if (before) {
      const gap = word.start - before.end;
      if (gap >= LEAST_GAP && gap <= MOST_GAP) gaps.push(gap);
    }
    before = word;
  }
  return {
    language,
    words,
    plain: spokenForms(words),
    capitals: starts >= 3 && capitals >= starts / 2,
    punctuated: signs * WORDS_A_SIGN >= words.length && signs > 0,
    naturalGap: gaps.length >= 5 ? quantile(gaps, 0.5) : USUAL_GAP,
  };
}
