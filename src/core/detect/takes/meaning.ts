import numbers from 'number-to-words';
import { wordSet } from '../words/wordClasses.ts';

const NEGATIONS = wordSet(
  "not no never none nothing nobody without don't doesn't didn't isn't aren't wasn't weren't won't can't cannot couldn't shouldn't",
);
const COUNTED = [...Array(20).keys(), 20, 30, 40, 50, 60, 70, 80, 90];
/** Words that numbers are made of. */
const NUMBERS: ReadonlySet<string> = new Set([
  ...COUNTED.flatMap((n) => [numbers.toWords(n), numbers.toWordsOrdinal(n)]),
  ...wordSet('half hundred thousand million billion'),
]);

/** A word of a saying as compared and as written. */
export interface SaidWord {
  readonly plain: string;
  readonly written: string | undefined;
  /** it would have a capital whatever it is, as the first word has */
  readonly hasAnyCapital: boolean;
}

/** Whether one word instead of another changes what a line says beyond doubt: a number, a name, or whether something is denied. */
export function changesMeaning(left: SaidWord, right: SaidWord): boolean {
  if (left.plain === right.plain) return false;
  const named = !left.hasAnyCapital && !right.hasAnyCapital && isName(left.written) && isName(right.written);
  return (isNumber(left.plain) && isNumber(right.plain)) || NEGATIONS.has(left.plain) !== NEGATIONS.has(right.plain) || named;
}

/** Whether a word is a number or a part of one. */
export const isNumber = (word: string): boolean => NUMBERS.has(word) || /^\d/.test(word);
const isName = (word: string | undefined): boolean => word !== undefined && /^\p{Lu}\p{Ll}/u.test(word);
