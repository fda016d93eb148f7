import { memoize } from '../../transcript/memoize.ts';

let tagger: typeof import('compromise/two').default | undefined;

/**
 * Fetches what tells parts of speech. To be awaited before anything but pauses is looked for: it unpacks a lexicon for a
 * third of a second, in which pauses are on the page already.
 */
export async function loadSpeechParts(): Promise<void> {
  tagger ??= (await import('compromise/two')).default;
}

/** What a word most likely is, told without its neighbours. */
export type SpeechPart = 'noun' | 'verb' | 'adjective' | 'adverb' | 'number' | 'function' | 'other';

/**
 * The part of speech of an English word, guessed by `compromise` from its own lexicon and the form of the word. Each word
 * is guessed once: three hours hold some thousand different ones.
 */
export const speechPartOf = memoize((word): SpeechPart => {
  if (!tagger) throw new Error('loadSpeechParts comes first');
  const tags = new Set<string>(tagger(word).json()[0]?.terms[0]?.tags ?? []);
  // "My" and "its" are tagged as "the keeper's" is.
  if (tags.has('Possessive') && !word.includes("'")) return 'function';
  return ORDER.find(([tag]) => tags.has(tag))?.[1] ?? 'other';
});

/** Narrow tags first: a copula is tagged as a verb too, a pronoun as a noun. */
const ORDER: readonly (readonly [tag: string, part: SpeechPart])[] = [
  ['Pronoun', 'function'],
  ['Determiner', 'function'],
  ['Preposition', 'function'],
  ['Conjunction', 'function'],
  ['Auxiliary', 'function'],
  ['Copula', 'function'],
  ['Modal', 'function'],
  ['Value', 'number'],
  ['Adjective', 'adjective'],
  ['Adverb', 'adverb'],
  ['Verb', 'verb'],
  ['Noun', 'noun'],
];
