import type { Range, Seconds } from '../time/range.ts';
import { bestShift } from './correlation.ts';
import { LEAST_HEIGHT } from './fitted.ts';
import { ONSET_RATE } from './onsets.ts';

/** Samples a second of the sound that is looked at closely. */
export const CLOSE_RATE = 16_000;

/** A recording that can be listened to, at a distance and closely. */
export interface Listened {
  readonly duration: Seconds;
  /** how its sound sets in, see `OnsetMeter` */
  readonly onsets: Float32Array;
  /** `CLOSE_RATE` samples a second, silence where there is nothing */
  samples(from: Seconds, length: Seconds): Promise<Float32Array>;
}

/** Where a second recording lies against a first: at `t` of the first it is at `(t - place) * (1 + drift)` of its own time. */
export interface SyncFit {
  /** moment of the first at which the second begins, which may lie before it */
  readonly place: Seconds;
  /** parts of one by which the second's clock runs faster; nought where it cannot be told from none */
  readonly drift: number;
  /** stretches that agree, of those that were listened to */
  readonly agree: number;
  readonly of: number;
}

/** What was found in one stretch of the second recording. */
export interface Stretch {
  /** moment of the second */
  readonly at: Seconds;
  /** how much of it was compared closely */
  readonly length: Seconds;
  /** where the second would begin in the first */
  readonly place: Seconds;
  /** how far the shift stands out */
  readonly height: number;
}

/** Stretches of the second that are looked for, spread over it. */
const MOST_STRETCHES = 12;
const STRETCH: Seconds = 60;
const LEAST_STRETCH: Seconds = 15;
const LEAST_COUNT = 3;
const SHORTEST: Seconds = 1;
/** Of each the liveliest part is compared sample by sample, within so much of where it was found at a distance. */
const CLOSE: Seconds = 6;
const REACH: Seconds = 0.25;
/** Onsets of the first that are gone through at once. */
const SLICE = 2 ** 16;
/** How much of a stretch must lie within the first. */
const OVERLAP = 0.5;
/** Where speech is strong, as shares of the sampling rate. */
const BAND = { low: 200 / CLOSE_RATE, high: 3500 / CLOSE_RATE };
/** Stretches that lie so near to one line agree. */
const AGREES: Seconds = 0.004;
/** Quartz clocks differ by a few hundredths of this. */
const MOST_DRIFT = 5e-4;
/** Under this span, and under this sum, drift cannot be told from chance. */
const LEAST_SPAN: Seconds = 30;
const LEAST_DRIFT: Seconds = 0.002;

/**
 * Finds where a second recording of the same moment lies against a first, by their sound alone.
 * @returns undefined where no two stretches agree: then they share no sound, or too little of it
 */
export async function align(first: Listened, second: Listened): Promise<SyncFit | undefined> {
  return agreement(await stretchesOf(first, second));
}

/** Looks for stretches of the second in the first, each by itself. */
export async function stretchesOf(first: Listened, second: Listened): Promise<Stretch[]> {
  const found: Stretch[] = [];
  for (const { start, end } of spreadOver(second.duration)) {
    const at = start + liveliest(partOf(second.onsets, start, end), close(end - start)) / ONSET_RATE;
    const [from, to] = widened(start, end, second.duration);
    const near = shiftAmong(first.onsets, partOf(second.onsets, from, to)) / ONSET_RATE - from;
    const length = close(end - start);
    const begin = near + at - REACH;
    const [long, short] = [await first.samples(begin, length + 2 * REACH), await second.samples(at, length)];
    const { shift, height } = bestShift(long, short, 1, BAND);
    found.push({ at, length, place: begin + shift / CLOSE_RATE - at, height });
  }
  return found;
}

/** Stretches of a recording, so many that some can agree however short it is. */
function spreadOver(duration: Seconds): Range[] {
  if (duration < SHORTEST) return [];
  const length = Math.min(STRETCH, duration / (duration < 2 * LEAST_STRETCH ? LEAST_COUNT : 2));
  const count = Math.max(LEAST_COUNT, Math.min(MOST_STRETCHES, Math.floor((2 * duration) / length) - 1));
  return Array.from({ length: count }, (_, k) => {
    const start = ((duration - length) * k) / (count - 1);
    return { start, end: start + length };
  });
}

/** What is looked for at a distance is not too short to be told from all else. */
function widened(start: Seconds, end: Seconds, duration: Seconds): [from: Seconds, to: Seconds] {
  const more = Math.max(0, LEAST_STRETCH - (end - start)) / 2;
  return [Math.max(0, start - more), Math.min(duration, end + more)];
}

const close = (length: Seconds): Seconds => Math.min(CLOSE, length);
const partOf = (onsets: Float32Array, from: Seconds, to: Seconds): Float32Array =>
  onsets.subarray(Math.round(from * ONSET_RATE), Math.round(to * ONSET_RATE));

/** The shift of a stretch against all of a long signal, gone through in slices that overlap by its length. */
function shiftAmong(long: Float32Array, stretch: Float32Array): number {
  let best = { shift: 0, height: Number.NEGATIVE_INFINITY };
  const step = SLICE - stretch.length;
  for (let from = 0; from === 0 || from + stretch.length < long.length; from += step) {
    const { shift, height } = bestShift(long.subarray(from, from + SLICE), stretch, OVERLAP);
    if (height > best.height) best = { shift: from + shift, height };
  }
  return best.shift;
}

/** Where the part of a stretch, so many seconds of it, begins in which most sets in. */
function liveliest(onsets: Float32Array, seconds: Seconds): number {
  const length = Math.min(onsets.length, Math.floor(seconds * ONSET_RATE));
  let sum = 0;
  let [best, at] = [Number.NEGATIVE_INFINITY, 0];
  for (const [k, onset] of onsets.entries()) {
    sum += Math.max(0, onset) - (k >= length ? Math.max(0, onsets[k - length] as number) : 0);
    if (k >= length - 1 && sum > best) [best, at] = [sum, k - length + 1];
  }
  return at;
}

/** The place and drift that most stretches which stand out agree about. One alone says nothing. */
export function agreement(stretches: readonly Stretch[], leastHeight = LEAST_HEIGHT): SyncFit | undefined {
  const clear = stretches.filter(({ height }) => height >= leastHeight);
  const lines = clear.flatMap((a) =>
    clear.map((b) => {
      const slope = b.at - a.at < LEAST_SPAN ? 0 : (b.place - a.place) / (b.at - a.at);
      return clear.filter(
        ({ at, place }) => Math.abs(slope) <= MOST_DRIFT && Math.abs(a.place + slope * (at - a.at) - place) <= AGREES,
      );
    }),
  );
  const agreeing = lines.reduce<readonly Stretch[]>((most, one) => (one.length > most.length ? one : most), []);
  // Two that heard the same click are one.
  const [first, last] = [agreeing[0], agreeing.at(-1)];
  if (!first || !last || last.at - first.at < first.length) return undefined;
  const { place, slope } = lineThrough(agreeing);
  return { place, drift: slope === 0 ? 0 : -slope / (1 + slope), agree: agreeing.length, of: stretches.length };
}

/** Least squares; level where the stretches are too near to one another, or differ too little, to tell. */
function lineThrough(points: readonly Stretch[]): { readonly place: Seconds; readonly slope: number } {
  const mean = (of: (point: Stretch) => number) => points.reduce((sum, point) => sum + of(point), 0) / points.length;
  const [middle, level] = [mean(({ at }) => at), mean(({ place }) => place)];
  const spread = mean(({ at }) => (at - middle) ** 2);
  const span = Math.max(...points.map(({ at }) => at)) - Math.min(...points.map(({ at }) => at));
  const slope = spread === 0 ? 0 : mean(({ at, place }) => (at - middle) * (place - level)) / spread;
  if (span < LEAST_SPAN || points.length < 3 || Math.abs(slope) * span < LEAST_DRIFT) return { place: level, slope: 0 };
  return { place: level - slope * middle, slope };
}
