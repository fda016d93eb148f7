import { isSaid } from './word.ts';

/** No note is of more words than this. */
const MOST_WORDS = 6;

/** What is joined: a word, or a part of a text that may have times. */
interface Part {
  readonly text: string;
  readonly end?: number;
}

/** Words with each note that was written as several of them (`(upbeat`, `music)`) as one, from where it begins to where it ends. */
export function withWholeNotes<T extends Part>(words: readonly T[]): T[] {
  const joined: T[] = [];
  for (let k = 0; k < words.length; k++) {
    const note = noteAt(words, k);
    joined.push(note?.whole ?? (words[k] as T));
    k += (note?.count ?? 1) - 1;
  }
  return joined;
}

function noteAt<T extends Part>(words: readonly T[], first: number): { readonly whole: T; readonly count: number } | undefined {
  const word = words[first] as T;
  const close = CLOSING.get(word.text.charAt(0));
  if (close === undefined || word.text.includes(close)) return undefined;
  const last = words.slice(first, first + MOST_WORDS).findIndex(({ text }) => text.includes(close));
  const text = words
    .slice(first, first + last + 1)
    .map((one) => one.text)
    .join(' ');
  if (last < 0 || isSaid(text)) return undefined;
  return { whole: { ...word, ...endOf(words[first + last] as T), text }, count: last + 1 };
}

const endOf = ({ end }: Part) => (end === undefined ? {} : { end });

const CLOSING: ReadonlyMap<string, string> = new Map([
  ['(', ')'],
  ['[', ']'],
]);
