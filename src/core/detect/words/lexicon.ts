import { LEXICON_CHANGES } from '../settings.ts';
import type { LexiconEntry, Strength } from './lexiconEntry.ts';
import { SHIPPED } from './shippedLexicons.ts';
import { spokenForm } from './spoken.ts';

export const SHIPPED_LANGUAGES: readonly string[] = Object.keys(SHIPPED);

/** The language of a tag without its region: `en-GB` is `en`. */
export const baseLanguage = (tag: string): string => tag.toLowerCase().split(/[-_]/)[0] ?? tag;

/** Small letters, straight apostrophes, single spaces. */
export const normalPhrase = (phrase: string): string =>
  phrase
    .toLowerCase()
    .replaceAll('’', "'")
    .replace(/[^\p{L}\p{M}\p{N}' -]/gu, ' ')
    .replace(/\s+/g, ' ')
    .trim();

/**
 * The lexicon of a language as a setting has it: what ships, with the changes that the setting names. A setting is text:
 * `shipped`, or changes such as `en/like:off;en/literally:often;de/ähm:always`.
 */
export function lexiconOf(language: string, setting: string): LexiconEntry[] {
  const base = baseLanguage(language);
  const all = new Map((SHIPPED[base] ?? []).map((entry) => [entry.phrase, entry]));
  for (const change of changesOf(setting)) if (change.language === base) all.set(change.phrase, change);
  return [...all.values()];
}

/** Phrases of one strength, as they are compared with what is said. */
export const phrasesOf = (lexicon: readonly LexiconEntry[], strength: Strength): string[] =>
  lexicon.filter((entry) => entry.strength === strength).map(({ phrase }) => phrase.split(' ').map(spokenForm).join(' '));

/** Words that are hesitations and nothing else. */
export const hesitationsOf = (language: string, setting: string): ReadonlySet<string> =>
  new Set(phrasesOf(lexiconOf(language, setting), 'always'));

export interface LexiconChange extends LexiconEntry {
  readonly language: string;
}

export function changesOf(setting: string): LexiconChange[] {
  if (!LEXICON_CHANGES.test(setting)) return [];
  return setting.split(';').map((change) => {
    const [, language = '', phrase = '', strength] = /^([a-z]+)\/([^/:;]+):(\w+)$/.exec(change) ?? [];
    return { language, phrase: normalPhrase(phrase), strength: strength as Strength };
  });
}

/** A setting with one entry of a language changed. Changes that say what ships anyway go. */
export function withChange(setting: string, change: LexiconChange): string {
  const phrase = normalPhrase(change.phrase);
  const changes = changesOf(setting).filter((one) => one.language !== change.language || one.phrase !== phrase);
  const ships = SHIPPED[change.language]?.find((entry) => entry.phrase === phrase)?.strength ?? 'off';
  if (ships !== change.strength) changes.push({ ...change, phrase });
  return changes.map((one) => `${one.language}/${one.phrase}:${one.strength}`).join(';') || 'shipped';
}

/** A lexicon as a file: `zetemis.lexicon/1`. */
export const writeLexiconFile = (language: string, lexicon: readonly LexiconEntry[]): string =>
  `${JSON.stringify({ schema: 'zetemis.lexicon/1', language: baseLanguage(language), entries: lexicon }, null, 2)}\n`;
