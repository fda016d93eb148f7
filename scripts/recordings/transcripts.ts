import numbers from 'number-to-words';
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

/** How a large recogniser closes what was broken off: with no sign, or one that says nothing of it. */
const BROKEN_ENDS = ['', '', '...', '...', '.', '.', ',', '-', '—'];
const NOTES = ['[BLANK_AUDIO]', '[Music]', '(clock ticking)', '(upbeat music)', '[ Silence ]'];
/** Two words that are written as one. */
const SHORTENED: ReadonlyMap<string, string> = new Map([
  ['it is', "it's"],
  ['that is', "that's"],
  ['there is', "there's"],
  ['do not', "don't"],
  ['does not', "doesn't"],
  ['is not', "isn't"],
  ['would not', "wouldn't"],
  ['i am', "I'm"],
  ['i have', "I've"],
  ['i would', "I'd"],
  ['we will', "we'll"],
  ['you will', "you'll"],
  ['going to', 'gonna'],
]);
const FIGURES: ReadonlyMap<string, string> = new Map(
  [2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 15, 20, 30, 40, 50, 60, 70, 80, 90].map((n) => [numbers.toWords(n), String(n)]),
);
const NUMBER_BEFORE: ReadonlySet<string> = new Set([...FIGURES.keys(), 'one', 'hundred', 'thousand', 'and']);
/** A pause this long is gone through with the line before it once more. */
const LONG_SILENCE = 1.8;

/**
 * As large recognisers write: most hesitations and some repeats left out, a saying that is broken off closed by any sign, sentences joined
 * by commas, numbers in figures, two words as one, words end to end where a pause is between, notes and lines in silence, and what it was sure of
 * with much confidence.
 */
export function asWritten(
  words: readonly TruthWord[],
  pauses: readonly (readonly [number, number])[],
  random: Random,
): TranscriptWord[] {
  const between = (low: number, high: number) => low + (high - low) * random();
  const oneOf = (from: readonly string[]) => from[Math.floor(random() * from.length)] as string;
  const kept = words.filter(({ tag }) => random() >= (tag === 'filler' ? 0.75 : tag === 'repeat' ? 0.3 : 0));
  const written: TranscriptWord[] = [];
  let joined = false;
  for (let k = 0; k < kept.length; k++) {
    const { text, speaker, start, end: ends } = kept[k] as TruthWord;
    const next = kept[k + 1];
    const sign = /[.,?!]$/.exec(text)?.[0] ?? '';
    const bare = sign ? text.slice(0, -1) : text;
    let [said, end] = [joined && !/^I\b/.test(bare) ? bare.toLowerCase() : bare, ends];
    joined = false;
    const shorter = next && !sign ? SHORTENED.get(`${plain(bare)} ${plain(next.text)}`) : undefined;
    const figure = FIGURES.get(plain(bare));
    let close = sign;
    if (shorter && next && random() < 0.4) {
      said = /^[A-Z]/.test(said) ? `${shorter.charAt(0).toUpperCase()}${shorter.slice(1)}` : shorter;
      close = /[.,?!]$/.exec(next.text)?.[0] ?? '';
      end = next.end;
      k++;
    } else if (figure && !NUMBER_BEFORE.has(plain(kept[k - 1]?.text ?? '')) && random() < 0.5) said = figure;
    const following = kept[k + 1];
    const gap = (following?.start ?? Number.POSITIVE_INFINITY) - end;
    const isBroken = close === '' && gap > 0.3 && /^[A-Z]/.test(following?.text ?? 'A');
    if (isBroken) close = oneOf(BROKEN_ENDS);
    else if (close === '.' && random() < 0.08) {
      close = ',';
      joined = true;
    } else if (close === '.' && random() < 0.04) close = '...';
    const untold = gap < 0.4 && random() < 0.6 ? gap : Math.min(gap, random() < 0.3 ? between(0.05, 0.3) : 0);
    const misheard = random() < 0.015;
    const begins = Math.max(written.at(-1)?.end ?? 0, start + between(-0.05, 0.05));
    written.push({
      text: `${misheard ? oneOf(MISHEARD) : said}${close}`,
      start: millis(begins),
      end: millis(Math.max(begins + 0.03, end + untold)),
      confidence: Math.round(100 * (misheard ? between(0.2, 0.7) : Math.max(0.3, 1 - 0.08 * -Math.log(random())))) / 100,
      speaker,
    });
  }
  return [...written, ...pauses.flatMap((pause) => writtenIntoSilence(pause, written, random))].sort((a, b) => a.start - b.start);
}

/** A note, or the line before once more. */
function writtenIntoSilence(
  [start, end]: readonly [number, number],
  written: readonly TranscriptWord[],
  random: Random,
): TranscriptWord[] {
  if (end - start < LONG_SILENCE || random() > 0.15) return [];
  const [from, length] = [start + 0.2, end - start - 0.4];
  const place = (texts: readonly string[], confidence: number) =>
    texts.map((text, k) => ({
      text,
      start: millis(from + (length * k) / texts.length),
      end: millis(from + (length * (k + 0.95)) / texts.length),
      confidence,
      speaker: written[0]?.speaker ?? '',
    }));
  if (random() < 0.5) return place([NOTES[Math.floor(random() * NOTES.length)] as string], 0.8);
  const before = written.filter((word) => word.end <= start + 0.3);
  const since = before.slice(0, -1).findLastIndex(({ text }) => /[.?!]$/.test(text)) + 1;
  return place(
    before.slice(since).map(({ text }) => text),
    Math.round(100 * (0.5 + 0.45 * random())) / 100,
  );
}
