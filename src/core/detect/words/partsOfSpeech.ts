import { memoize } from '../../transcript/memoize.ts';

/** What a word most likely is, told without its neighbours. */
export type SpeechPart = 'noun' | 'verb' | 'adjective' | 'adverb' | 'number' | 'function' | 'other';

/** Tells the part of speech of an English word. */
export type PartOf = (word: string) => SpeechPart;

/**
 * What tells parts of speech, guessed by `compromise` from its own lexicon and the form of the word. It is to be loaded before anything
 * but pauses is looked for: it unpacks a lexicon for a third of a second, in which pauses are on the page already. Each word is guessed
 * once: three hours hold some thousand different ones.
 */
export class SpeechParts {
  private told: PartOf | undefined;

  /** One that is loaded. */
  static async loaded(): Promise<SpeechParts> {
    const parts = new SpeechParts();
    await parts.load();
    return parts;
  }

  async load(): Promise<void> {
    if (this.told) return;
    const { default: tagger } = await import('compromise/two');
    this.told ??= memoize((word): SpeechPart => {
      const tags = new Set<string>(tagger(word).json()[0]?.terms[0]?.tags ?? []);
      // "My" and "its" are tagged as "the keeper's" is.
      if (tags.has('Possessive') && !word.includes("'")) return 'function';
      return ORDER.find(([tag]) => tags.has(tag))?.[1] ?? 'other';
    });
  }

  /** @throws Error when it was not loaded */
  readonly of: PartOf = (word) => {
    if (!this.told) throw new Error('what tells parts of speech was not loaded');
    return this.told(word);
  };
}

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
