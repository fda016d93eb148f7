import { baseLanguage } from '../../detect/words/lexicon.ts';
import { endsSentence } from '../../transcript/word.ts';
import type { PlacedWord } from '../plan/onTimeline.ts';
import type { CaptionStyle } from './style.ts';

/** Words in the wanted letters, by the rules of their language. */
export function withCase(
  words: readonly PlacedWord[],
  letterCase: CaptionStyle['letterCase'],
  language: string,
): readonly PlacedWord[] {
  if (letterCase === 'as written') return words;
  const tag = language || 'en';
  const upper = (text: string) => cased(() => text.toLocaleUpperCase(tag), text.toUpperCase());
  const lower = (text: string) => cased(() => text.toLocaleLowerCase(tag), text.toLowerCase());
  const isEnglish = baseLanguage(tag) === 'en';
  return words.map((placed, k) => {
    const { text } = placed.word;
    const before = words[k - 1]?.word;
    if (letterCase === 'upper') return withText(placed, upper(text));
    if (letterCase === 'lower') return withText(placed, lower(text));
    const begins = !before || endsSentence(before.text) || before.speaker !== placed.word.speaker;
    const isI = isEnglish && /^["'“‘(]*i(?:['’]|\b(?!\p{L}))/iu.test(text);
    const plain = lower(text);
    return withText(placed, begins || isI ? plain.replace(/\p{L}/u, upper) : plain);
  });
}

/** A tag that is none makes the platform throw. */
function cased(change: () => string, otherwise: string): string {
  try {
    return change();
  } catch {
    return otherwise;
  }
}

const withText = (placed: PlacedWord, text: string): PlacedWord => ({ ...placed, word: { ...placed.word, text } });
