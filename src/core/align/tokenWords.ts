import type { Seconds } from '../time/range.ts';

/** What a recogniser hears token by token: pieces of words, each with the moment at which it was decided. */
export interface HeardTokens {
  readonly tokens: readonly string[];
  readonly timestamps: readonly Seconds[];
  /** as many as there are tokens, or none */
  readonly durations?: readonly Seconds[];
  /** natural logarithms of how likely each was; as many as there are tokens, or none */
  readonly logProbabilities?: readonly number[];
}

/** A word made of tokens. */
export interface TokenWord {
  readonly text: string;
  readonly start: Seconds;
  readonly end: Seconds;
  /** mean probability of its tokens; undefined where the recogniser does not tell */
  readonly confidence?: number;
}

/** The last token of a word goes on for no longer than this, whatever comes after it. */
export const LONGEST_TOKEN: Seconds = 0.3;
/** Tokens that are no text: languages, events, what is unknown. */
const NO_TEXT = /^(<.*>|\[.*\]|▁|\s*)$/u;
/** How a token begins that begins a word, in models whose tokens are pieces of words. */
const BEGINS = /^[▁ ]/u;
/** Scripts that set no spaces: each letter is a word of its own. */
const NO_SPACES = /^[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}]/u;
/** What belongs to the word before it. */
const TRAILING = /^[\p{P}\p{M}]+$/u;
/** A piece that goes on in the next token, in models that mark those. */
const GOES_ON = /@@$/;

/**
 * Words of tokens, with the times of their tokens. Whether tokens are pieces of words that begin with a mark, pieces that are marked where they
 * go on, single letters with spaces between them, or whole words, is seen from the tokens.
 * @param end of the sound, in seconds; no word is longer
 */
export function wordsOfTokens({ tokens, timestamps, durations, logProbabilities }: HeardTokens, end: Seconds): TokenWord[] {
  const isMarked = tokens.some((token) => BEGINS.test(token));
  const hasPieces = tokens.some((token) => GOES_ON.test(token));
  const count = Math.min(tokens.length, timestamps.length);
  const words: { text: string; from: number; to: number }[] = [];
  let begins = true;
  for (let k = 0; k < count; k++) {
    const token = tokens[k] as string;
    if (NO_TEXT.test(token)) {
      if (/^[▁\s]+$/u.test(token)) begins = true;
      continue;
    }
    const text = token.replace(BEGINS, '').replace(GOES_ON, '');
    const last = words.at(-1);
    const isOwn =
      !isMarked && !hasPieces ? NO_SPACES.test(text) || NO_SPACES.test(last?.text.at(-1) ?? '') : NO_SPACES.test(text);
    const starts = begins || BEGINS.test(token) || isOwn;
    if (last && (TRAILING.test(text) || !starts)) {
      last.text += text;
      // A comma is not said.
      if (!TRAILING.test(text)) last.to = k;
    } else if (!TRAILING.test(text)) words.push({ text, from: k, to: k });
    begins = hasPieces && !GOES_ON.test(token);
  }
  return words.map(({ text, from, to }, k) => {
    const start = timestamps[from] as Seconds;
    const next = words[k + 1];
    const last = timestamps[to] as Seconds;
    const limit = Math.max(start, next ? (timestamps[next.from] as Seconds) : end);
    const stop = Math.min(limit, last + (durations?.[to] || LONGEST_TOKEN));
    const sure = logProbabilities?.slice(from, to + 1) ?? [];
    return {
      text,
      start,
      end: stop,
      ...(sure.length > 0 && {
        confidence: Math.min(1, sure.reduce((sum, one) => sum + Math.exp(Math.min(0, one)), 0) / sure.length),
      }),
    };
  });
}
