import numbers from 'number-to-words';
import { mapIncrementally } from '../../transcript/incrementalSearch.ts';
import { memoize } from '../../transcript/memoize.ts';
import type { Remembered } from '../../transcript/memory.ts';
import type { Word } from '../../transcript/word.ts';
import { type Spoken, spokenForm } from '../words/spoken.ts';

/** What is said otherwise than it is written, and what is written in two ways. */
const ANOTHER_WAY: ReadonlyMap<string, string> = new Map([
  ['ok', 'okay'],
  ['alright', 'all right'],
  ['gonna', 'going to'],
  ['wanna', 'want to'],
  ['gotta', 'got to'],
  ['kinda', 'kind of'],
  ['cannot', 'can not'],
  ["can't", 'can not'],
  ["won't", 'will not'],
  ["shan't", 'shall not'],
  ["let's", 'let us'],
]);
const ENDINGS: readonly (readonly [written: RegExp, said: string])[] = [
  [/n't$/, ' not'],
  [/'re$/, ' are'],
  [/'ll$/, ' will'],
  [/'ve$/, ' have'],
  [/'m$/, ' am'],
];
/** Behind these `'s` is a verb, and else it may be whose something is. */
const IS = /^(it|that|there|here|what|who|where|how|he|she)'s$/;
const WHOLE = /^(?:\d{1,3}(?:,\d{3})+|\d{1,9})$/;
const ORDINAL = /^(\d{1,9})(?:st|nd|rd|th)$/;
const DECIMAL = /^(\d{1,9})\.(\d{1,9})$/;
/** Said by twos, but for the first years of a century of thousands. */
const YEAR = /^(1[1-9]|20)(\d\d)$/;

/** Inside a word: what it joins may be written apart the next time. */
const HYPHEN = /(?<=[\p{L}\p{N}])-(?=\p{L})/u;

const wordsOf = (text: string): string[] => text.split(/[\s,-]+/).filter((word) => word !== 'and');

const SAID: Remembered<(words: readonly Word[]) => readonly (readonly string[])[]> = {
  begin: () => {
    const said = memoize(spelledOut);
    return mapIncrementally(({ text }) => said(text));
  },
};

/** Each word of a text as the words in which it is said; none for what has no letters. */
export const wordsAsSaid = ({ words, memory }: Spoken): readonly (readonly string[])[] => memory.of(SAID)(words);

/**
 * A written word as the words in which it is said: a recogniser writes `3` once and `three` the next time, `it's` and `it is`, and neither
 * makes another line of it. Numbers and shortened forms are those of English; all else stays as it is.
 * @param written with its signs
 */
function spelledOut(written: string): readonly string[] {
  const plain = spokenForm(written);
  if (plain === '') return [];
  const parts = written.split(HYPHEN);
  if (parts.length > 1) return parts.flatMap(spelledOut);
  const number = written.replace(/^[^\p{L}\p{N}]+|[^\p{L}\p{N}%]+$/gu, '').toLowerCase();
  if (/^\d/.test(number)) return [...numberSaid(number.replace(/%$/, ''), plain), ...(number.endsWith('%') ? ['percent'] : [])];
  const another = ANOTHER_WAY.get(plain);
  if (another !== undefined) return another.split(' ');
  if (IS.test(plain)) return [plain.slice(0, -2), 'is'];
  const ending = ENDINGS.find(([form]) => form.test(plain));
  return ending ? plain.replace(ending[0], ending[1]).split(' ') : [plain];
}

function numberSaid(number: string, plain: string): readonly string[] {
  const year = YEAR.exec(number);
  if (year && !(year[1] === '20' && Number(year[2]) < 10)) return yearSaid(Number(year[1]), Number(year[2]));
  if (WHOLE.test(number)) return wordsOf(numbers.toWords(Number(number.replaceAll(',', ''))));
  const ordinal = ORDINAL.exec(number);
  if (ordinal) return wordsOf(numbers.toWordsOrdinal(Number(ordinal[1])));
  const decimal = DECIMAL.exec(number);
  if (decimal)
    return [
      ...wordsOf(numbers.toWords(Number(decimal[1]))),
      'point',
      ...[...(decimal[2] as string)].map((digit) => numbers.toWords(Number(digit))),
    ];
  return [plain];
}

function yearSaid(century: number, rest: number): readonly string[] {
  const behind = rest === 0 ? ['hundred'] : rest < 10 ? ['oh', numbers.toWords(rest)] : wordsOf(numbers.toWords(rest));
  return [...wordsOf(numbers.toWords(century)), ...behind];
}
