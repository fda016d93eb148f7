import type { TruthWord } from '../../demo/script.ts';
import type { Random } from './scenes.ts';

export interface TranscriptWord {
  text: string;
  start: number;
  end: number;
  confidence: number;
  speaker: string;
}

const MISHEARD = ['there', 'around', 'between', 'other', 'going', 'year', 'where', 'about', 'some', 'then', 'people', 'over'];
const INVENTED = ['Okay.', 'you', 'Thank you.', 'Bye.'];
const HESITATIONS = ['um', 'uh', 'er'];
/** What a small recogniser that knows no hesitations hears in one. */
const FOR_HESITATIONS = ['on', 'and', 'that', 'not', 'them', 'in', 'at', 'an', 'her', 'are'];
const SMALL = new Set('the a an to of and in on is it that for i so we you'.split(' '));

const millis = (at: number): number => Math.round(at * 1000) / 1000;
const plain = (text: string): string => text.toLowerCase().replace(/[^a-z']/g, '');

/** The true words, all of them. */
export const trueWords = (words: readonly TruthWord[]): TranscriptWord[] =>
  words.map(({ text, start, end, speaker }) => ({ text, start, end, confidence: 0.95, speaker }));

/** As recognisers do that leave hesitations out. */
export const withoutHesitations = (words: readonly TruthWord[]): TranscriptWord[] =>
  trueWords(words.filter(({ tag }) => tag !== 'filler'));

/** How often a recogniser errs, each 0..1. */
interface Errors {
  /** hesitations left out and written for another word, small words left out, small words and others written as a hesitation, words misheard */
  readonly leftOut: number;
  readonly asWord: number;
  readonly dropped: number;
  readonly asHesitation: number;
  readonly misheard: number;
  /** seconds that edges are off by */
  readonly off: number;
  /** what it says of every word, where it does not tell them apart */
  readonly sure?: number;
}

/** A large recogniser that was asked for clean text. */
export const NOISY: Errors = { leftOut: 0.8, asWord: 0, dropped: 0.09, asHesitation: 0.02, misheard: 0.06, off: 0.05 };
/** A small one that writes what it hears, and hesitations that are none, with times taken from the sound. */
export const POOR: Errors = {
  leftOut: 0.3,
  asWord: 0.5,
  dropped: 0.05,
  asHesitation: 0.08,
  misheard: 0.16,
  off: 0.015,
  sure: 0.6,
};

/**
 * As recognisers err: small words dropped, two written as one, others misheard with less confidence, hesitations left out or
 * written for other words, edges a little off and some endings stretched into the pause, words invented in silence.
 */
export function wordsWithErrors(
  words: readonly TruthWord[],
  pauses: readonly (readonly [number, number])[],
  { leftOut, asWord, dropped, asHesitation, misheard, off, sure }: Errors,
  random: Random,
): TranscriptWord[] {
  const between = (low: number, high: number) => low + (high - low) * random();
  const oneOf = (from: readonly string[]) => from[Math.floor(random() * from.length)] as string;
  const around = () => (random() + random() + random() - 1.5) * off;
  const noisy: TranscriptWord[] = [];
  for (let k = 0; k < words.length; k++) {
    const { text, tag, speaker, ...time } = words[k] as TruthWord;
    let { end } = time;
    if (tag === 'filler' && random() < leftOut) continue;
    if (SMALL.has(plain(text)) && random() < dropped) continue;
    let written = text;
    let confidence = between(0.82, 0.99);
    const next = words[k + 1];
    if (HESITATIONS.includes(plain(text)) && random() < asWord) {
      written = oneOf(FOR_HESITATIONS);
      confidence = between(0.4, 0.85);
    } else if (next && next.tag !== 'filler' && next.start - end < 0.03 && random() < 0.03) {
      written = `${text}${next.text}`;
      end = next.end;
      confidence = between(0.4, 0.8);
      k++;
    } else if (random() < (SMALL.has(plain(text)) ? asHesitation : asHesitation / 4)) {
      written = oneOf(HESITATIONS);
      confidence = between(0.4, 0.95);
    } else if (random() < misheard) {
      written = `${oneOf(MISHEARD)}${/[.,?!]$/.exec(text)?.[0] ?? ''}`;
      confidence = between(0.3, 0.8);
    }
    const following = words[k + 1]?.start ?? Number.POSITIVE_INFINITY;
    const stretched = following - end > 0.3 && random() < 0.4 ? between(0.05, 0.4) : 0;
    const late = random() < 0.03 ? between(0.05, 0.2) : 0;
    const start = Math.max(noisy.at(-1)?.end ?? 0, time.start + around() + late);
    noisy.push({
      text: written,
      start: millis(start),
      end: millis(Math.max(start + 0.03, end + around() + stretched)),
      confidence: sure ?? Math.round(confidence * 100) / 100,
      speaker,
    });
  }
  for (const [start, end] of pauses)
    if (end - start > 1.2 && random() < 0.07) {
      const text = oneOf(INVENTED);
      const at = between(start + 0.3, end - 0.7);
      noisy.push({
        text,
        start: millis(at),
        end: millis(at + 0.3),
        confidence: sure ?? Math.round(between(0.3, 0.66) * 100) / 100,
        speaker: '',
      });
    }
  return noisy.sort((a, b) => a.start - b.start);
}
