import { francAll } from 'franc-min';
import { TAGS } from './languageTags.ts';

/** Of fewer words nothing can be told; of so many the likeliest language is always the right one. */
const LEAST_WORDS = 20;
const ENOUGH_WORDS = 60;
/** What the next likely one comes nearer to than this is in no language: names, or the same words again and again. */
const TOO_NEAR = 0.99;
/** In fewer words English comes at least this near to the likeliest language, and other languages stay further from it. */
const LIKE_ENGLISH = 0.84;
/** Words that are looked at, from the start. */
export const LOOKED_AT = 400;

/**
 * The language of a text by how often three letters follow one another in it (Cavnar and Trenkle 1994), as a BCP 47 tag. Of 1407 stretches
 * of English with 20 words and more none is taken for another.
 * @returns undefined where too little is said, or nothing that tells
 */
export function languageOf(words: readonly string[]): string | undefined {
  if (words.length < LEAST_WORDS) return undefined;
  const found = francAll(words.slice(0, LOOKED_AT).join(' '), { only: Object.keys(TAGS) });
  const [[likeliest] = ['und'], [, next] = ['und', 0]] = found;
  const english = found.find(([code]) => code === 'eng')?.[1] ?? 0;
  const mayBeEnglish = likeliest !== 'eng' && words.length < ENOUGH_WORDS && english >= LIKE_ENGLISH;
  return next > TOO_NEAR || mayBeEnglish ? undefined : TAGS[likeliest];
}
