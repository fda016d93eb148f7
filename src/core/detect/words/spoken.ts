import type { TimingFit } from '../../align/timing.ts';
import { quantile } from '../../numbers/quantile.ts';
import type { Range, Seconds } from '../../time/range.ts';
import { mapIncrementally } from '../../transcript/incrementalSearch.ts';
import { memoize } from '../../transcript/memoize.ts';
import { Memory, type Remembered } from '../../transcript/memory.ts';
import { plainWord } from '../../transcript/plainWord.ts';
import { endsSentence, isSaid, stopsUnfinished, type Word } from '../../transcript/word.ts';
import { type PartOf, SpeechParts } from './partsOfSpeech.ts';
import { ARTICLES } from './wordClasses.ts';

/** The words with what everybody who judges them asks about, worked out once. */
export interface Spoken {
  readonly language: string;
  readonly words: readonly Word[];
  /** each word as it is compared: small letters, apostrophes, nothing else */
  readonly plain: readonly string[];
  /** whether sentences start with capitals here and other words but for names do not, and whether they end with signs */
  readonly capitals: boolean;
  /** whether many words inside sentences have capitals, as nouns have in German: such a word is no name */
  readonly capitalsInside: boolean;
  readonly punctuated: boolean;
  /** the pause that this speaker makes between two words of a sentence, when one is made */
  readonly naturalGap: Seconds;
  readonly sound: () => WordsInSound;
  readonly memory: Memory;
  /** part of speech of an English word */
  readonly partOf: PartOf;
  /** 0..1: how free of doubt the transcript is, 1 where the recogniser was sure of nearly all words */
  readonly clean: number;
}

/** What the sound says of the words. */
export interface WordsInSound {
  /** silences found by sound alone, whatever words stand over them */
  readonly silences: readonly Range[];
  readonly timing: TimingFit;
}

/** Pauses between words shorter than this are none; longer ones are no part of the flow. */
const LEAST_GAP: Seconds = 0.1;
const MOST_GAP: Seconds = 0.6;
const USUAL_GAP: Seconds = 0.2;
/** Names are a smaller share of all words than this; in German every fourth word is a noun. */
const MOST_INSIDE = 0.15;
/** Fewer signs than one in so many words, and the text has none to speak of. */
const WORDS_A_SIGN = 40;

/** A word that the recogniser is less sure of is in doubt; of this share of them on, so is the whole transcript. */
const DOUBTED = 0.8;
const MOST_DOUBTED = 0.05;

/** Whether a sentence stops unfinished behind a word: by its sign, or because no sentence ends so, whatever sign a recogniser put there. */
export const stopsShort = ({ words, plain, language }: Spoken, at: number): boolean =>
  stopsUnfinished((words[at] as Word).text) || (language.startsWith('en') && ARTICLES.has(plain[at] as string));

/** Whether a word has a capital and goes on in small letters. Most are told by their first two codes alone, and all of a text are asked. */
function hasCapital(text: string): boolean {
  const [first, second] = [text.charCodeAt(0), text.charCodeAt(1)];
  if (first < 0x80) return first >= 0x41 && first <= 0x5a && (second >= 0x61 || second > 0x7f);
  return /^\p{Lu}\p{Ll}/u.test(text);
}

/** A word in small letters with its apostrophes (`don't`); nothing of what was not said. */
export const spokenForm = (word: string): string =>
  (isSaid(word) ? word : '')
    .split(/['’]/)
    .map(plainWord)
    .join("'")
    .replace(/^'+|'+$/g, '');

const SPOKEN_FORMS: Remembered<(words: readonly Word[]) => readonly string[]> = {
  begin: () => {
    const formOf = memoize(spokenForm);
    return mapIncrementally(({ text }) => formOf(text));
  },
};

/**
 * @param sound what the sound says of the words, asked for when somebody needs it
 * @param memory what is remembered of this text and of those that corrections made of it
 * @param partOf tells parts of speech, where somebody asks for them
 */
export function spokenOf(
  words: readonly Word[],
  language: string,
  sound: () => WordsInSound,
  memory: Memory = new Memory(),
  partOf: PartOf = new SpeechParts().of,
): Spoken {
  let [starts, capitals, inside, signs, doubted] = [0, 0, 0, 0, 0];
  const gaps: number[] = [];
  let before: Word | undefined;
  for (const word of words) {
    if (word.confidence < DOUBTED) doubted++;
    if (before && endsSentence(before.text)) {
      signs++;
      starts++;
      if (/^\p{Lu}/u.test(word.text)) capitals++;
    } else if (before) {
      if (hasCapital(word.text)) inside++;
      const gap = word.start - before.end;
      if (gap >= LEAST_GAP && gap <= MOST_GAP) gaps.push(gap);
    }
    before = word;
  }
  const capitalsInside = inside > MOST_INSIDE * words.length;
  return {
    language,
    words,
    plain: memory.of(SPOKEN_FORMS)(words),
    memory,
    partOf,
    capitals: starts >= 3 && capitals >= starts / 2 && !capitalsInside,
    capitalsInside,
    punctuated: signs * WORDS_A_SIGN >= words.length && signs > 0,
    sound,
    clean: Math.round(100 * Math.max(0, 1 - doubted / Math.max(1, MOST_DOUBTED * words.length))) / 100,
    naturalGap: gaps.length >= 5 ? quantile(gaps, 0.5) : USUAL_GAP,
  };
}
