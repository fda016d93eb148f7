import { codeToDbfs, LEVEL_RATE } from '../../curves/level.ts';
import { codeQuantile } from '../../numbers/quantile.ts';
import type { Range, Seconds } from '../../time/range.ts';
import { endsSentence, type Word } from '../../transcript/word.ts';
import { wordsIn } from '../../transcript/wordsIn.ts';
import type { Settings } from '../settings.ts';
import { type Spoken, stopsShort } from '../words/spoken.ts';
import { alignRows } from './columns.ts';

/** What an attempt is judged by, each 0..1; left out where nothing tells. */
export const PARTS = ['complete', 'fluent', 'pace', 'level', 'clear', 'later'] as const;
export type Part = (typeof PARTS)[number];
export type Parts = Readonly<Partial<Record<Part, number>>>;

/** The setting that says how much a part counts. */
export const WEIGHT_OF = {
  complete: 'weighComplete',
  fluent: 'weighFluent',
  pace: 'weighPace',
  level: 'weighLevel',
  clear: 'weighClear',
  later: 'weighLater',
} as const satisfies Record<Part, keyof Settings>;

/** One saying of a line, as it is. */
export interface Attempt extends Range {
  /** ends in the middle of its sentence */
  readonly broken: boolean;
  readonly parts: Parts;
}

/** What attempts are judged in. */
export interface Heard {
  readonly spoken: Spoken;
  readonly hesitations: ReadonlySet<string>;
  /** level of the loudest track, in codes */
  readonly loudest: Uint8Array;
  /** silences, for recordings without words */
  readonly silences: readonly Range[];
}

/** Each hesitation or word said twice costs this much of being fluent. */
const A_STUMBLE = 0.35;
/** A pause inside a line that is no end of a sentence costs this much for each second over the usual. */
const A_PAUSE = 0.25;
const USUAL_PAUSE: Seconds = 0.35;
/** Decibels that speech swings by inside a line without anybody noticing, and those that are as uneven as can be. */
const EVEN = 4;
const UNEVEN = 14;
/** Speech so many decibels over the room is as clear as it gets, and so many hardly heard. */
const CLEAR = 32;
const DROWNED = 8;
/** A saying this much shorter than the longest is broken off, where no signs tell. */
const MUCH_SHORTER = 0.75;
const NEARLY_WHOLE = 0.85;
/** Words that the recogniser is less sure of may be others. */
const SURE_WORD = 0.6;
const STEP = LEVEL_RATE / 5;

/** Judges the sayings of one line beside each other. */
export function judge(sayings: readonly Range[], heard: Heard): Attempt[] {
  const { words, plain, punctuated } = heard.spoken;
  const sides = sayings.map((saying) => wordsIn(words, saying));
  const worded = sides.every(([first, last]) => last > first);
  const shares = worded
    ? sharesOfUnion(
        sides.map(([first, last]) => plain.slice(first, last).filter((word) => word !== '' && !heard.hesitations.has(word))),
      )
    : sharesOfLongest(sayings.map((saying) => soundOf(saying, heard.silences)));
  return sayings.map((saying, k) => {
    const [first, last] = sides[k] as [number, number];
    const { share, length } = shares[k] as Share;
    const end = words[last - 1];
    // A word that was probably misheard says nothing about the sign behind it.
    const signed = worded && punctuated && end !== undefined && (end.confidence >= SURE_WORD || length < NEARLY_WHOLE);
    const broken = signed ? stopsShort(heard.spoken, last - 1) : length < MUCH_SHORTER;
    const mine = words.slice(first, last);
    return {
      ...saying,
      broken,
      parts: {
        complete: share * (broken ? 0.5 : 1),
        fluent: fluencyOf(saying, mine, plain.slice(first, last), heard),
        ...(mine.length >= 6 && { pace: paceOf(mine) }),
        ...levelOf(saying, heard.loudest),
        ...clarityOf(saying, mine, heard.loudest),
        later: sayings.length > 1 ? k / (sayings.length - 1) : 1,
      },
    };
  });
}

/** How much of a line a saying has, and how long it is beside the longest, 0..1 both. */
interface Share {
  readonly share: number;
  readonly length: number;
}

/** Shares of all that is said in any of them, what several say counting as often. */
function sharesOfUnion(rows: readonly (readonly string[])[]): Share[] {
  const columns = alignRows(rows);
  const weights = columns.map((column) => column.filter((at) => at >= 0).length);
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  const most = Math.max(1, ...rows.map((row) => row.length));
  return rows.map((row, k) => ({
    share:
      all > 0 ? columns.reduce((sum, column, n) => sum + ((column[k] as number) >= 0 ? (weights[n] as number) : 0), 0) / all : 1,
    length: row.length / most,
  }));
}

/** Without words, shares of the longest. */
function sharesOfLongest(lengths: readonly Seconds[]): Share[] {
  const most = Math.max(...lengths, 1e-6);
  return lengths.map((length) => ({ share: length / most, length: length / most }));
}

/** 0..1: the parts together, by the weights that the settings give them. */
export function scoreOf(parts: Parts, settings: Settings): number {
  let [sum, weights] = [0, 0];
  for (const part of PARTS) {
    const [value, weight] = [parts[part], settings[WEIGHT_OF[part]]];
    if (value === undefined) continue;
    sum += value * weight;
    weights += weight;
  }
  return weights > 0 ? sum / weights : 0;
}

/** Seconds of a saying that are no silence. */
const soundOf = (saying: Range, silences: readonly Range[]): Seconds =>
  silences.reduce(
    (left, { start, end }) => left - Math.max(0, Math.min(end, saying.end) - Math.max(start, saying.start)),
    saying.end - saying.start,
  );

function fluencyOf(saying: Range, words: readonly Word[], plain: readonly string[], { hesitations, silences }: Heard): number {
  const sure = (n: number) => (words[n]?.confidence ?? 0) >= SURE_WORD;
  const stumbles = plain.filter(
    (word, n) => hesitations.has(word) || (word !== '' && word === plain[n - 1] && sure(n) && sure(n - 1)),
  ).length;
  const pauses =
    words.length > 0
      ? words.slice(1).map((word, k) => (endsSentence((words[k] as Word).text) ? 0 : word.start - (words[k] as Word).end))
      : silences.filter(({ start, end }) => start > saying.start && end < saying.end).map(({ start, end }) => end - start);
  const waited = pauses.reduce((sum, pause) => sum + Math.max(0, pause - USUAL_PAUSE), 0);
  return clamp(1 - A_STUMBLE * stumbles - A_PAUSE * waited);
}

/** How evenly the words come: by letters a second, third by third. */
function paceOf(words: readonly Word[]): number {
  const third = Math.floor(words.length / 3);
  const speeds = [0, 1, 2].map((part) => {
    const some = words.slice(part * third, part === 2 ? words.length : (part + 1) * third);
    return some.reduce((sum, { text }) => sum + text.length, 0) / some.reduce((sum, { start, end }) => sum + end - start, 1e-3);
  });
  const mean = speeds.reduce((sum, speed) => sum + speed, 0) / speeds.length;
  return clamp(1.15 - (Math.max(...speeds) - Math.min(...speeds)) / mean);
}

/** How evenly loud the voice is, by the peaks of each fifth of a second. */
function levelOf(saying: Range, loudest: Uint8Array): Pick<Parts, 'level'> {
  const peaks = peaksIn(saying, loudest);
  if (peaks.length < 4) return {};
  return { level: clamp(1 - (levelAt(peaks, 0.9) - levelAt(peaks, 0.25) - EVEN) / (UNEVEN - EVEN)) };
}

/** How well it can be heard: voice over the room, and how sure the recogniser was. */
function clarityOf(saying: Range, words: readonly Word[], loudest: Uint8Array): Pick<Parts, 'clear'> {
  const around = levelsIn({ start: saying.start - 2, end: saying.end + 2 }, loudest);
  const peaks = peaksIn(saying, loudest);
  if (peaks.length === 0 || around.length === 0) return {};
  const over = clamp((levelAt(peaks, 0.7) - levelAt(around, 0.05) - DROWNED) / (CLEAR - DROWNED));
  const sure = words.length > 0 ? words.reduce((sum, { confidence }) => sum + confidence, 0) / words.length : 1;
  return { clear: over * sure };
}

/** The level that a share of some does not exceed, in dBFS. */
const levelAt = (codes: Uint8Array, share: number): number => codeToDbfs(codeQuantile(codes, share));

const levelsIn = ({ start, end }: Range, loudest: Uint8Array): Uint8Array =>
  loudest.subarray(Math.max(0, Math.round(start * LEVEL_RATE)), Math.max(0, Math.round(end * LEVEL_RATE)));

function peaksIn(saying: Range, loudest: Uint8Array): Uint8Array {
  const levels = levelsIn(saying, loudest);
  const peaks = new Uint8Array(Math.floor(levels.length / STEP));
  for (let k = 0; k < peaks.length * STEP; k++) {
    const peak = Math.floor(k / STEP);
    peaks[peak] = Math.max(peaks[peak] as number, levels[k] as number);
  }
  return peaks;
}

const clamp = (value: number): number => Math.max(0, Math.min(1, value));
