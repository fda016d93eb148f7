import { quantile } from '../numbers/quantile.ts';
import { bestShift } from '../sync/correlation.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import { Beginnings } from './beginnings.ts';
import { LEAST_CLOCK_HEIGHT, USUAL_OVER_SILENCE } from './fitted.ts';

/** A transcript's own clock beside that of the sound: what stands there at `t` is heard at `offset + rate * t`. */
export interface WordsClock {
  readonly offset: Seconds;
  readonly rate: number;
}

/** What words are held against. */
export interface SoundToFit {
  readonly duration: Seconds;
  /** found by sound alone, in order and disjoint */
  readonly silences: readonly Range[];
}

/** Steps a second at which words and sound are laid over one another. */
const RATE = 25;
/** Silences of words and sound that are compared. */
const CLEAR_SILENCE: Seconds = 0.2;
/** A word may last over the silence behind it: only so much of its beginning counts. */
const BEGINNING: Seconds = 0.3;
/** Fewer words than this say nothing. */
const ENOUGH = 15;
/** Of the transcript, so much must lie within the recording. */
const OVERLAP = 0.5;
/** Recognisers are off by less, and edges are moved to the sound on their own. */
const LEAST_OFFSET: Seconds = 0.1;
/** Moved, words must begin over silence this much less often, or be this much nearer to where sound sets in. */
const BETTER = 0.5;
/** In each of so many parts of a transcript half of the words beside silences are no further from the sound than this: they are exact. */
const EXACT_PARTS = 4;
const EXACT: Seconds = 0.04;
/** A picture at 24, 25 or 30 frames a second is played at 25, 24 or a thousandth slower, and its words were timed by that. */
const PULLED = 1.001;
const RATES = [1, PULLED, 1 / PULLED, 25 / 24, 24 / 25, (25 / 24) * PULLED, 24 / 25 / PULLED];
/** Another rate than the recording's own must stand out by so much more. */
const RARE = 1.15;
/** Words by which it is told whether what is left grows, so many at a time, each half with the next, and so far on either side of where they are expected ... */
const STRETCH = 40;
const ASIDE: Seconds = 3;
/** ... in so many stretches at least, by no less than this from end to end ... */
const LEAST_STRETCHES = 5;
const LEAST_GROWTH: Seconds = 0.12;
/** ... and half of them within such a part of it from one line, and this much. */
const AGREES = 1 / 4;
const MOST_APART: Seconds = 0.08;
/** How near a word begins to where sound sets in, once both are on one clock but for a rest. */
const NEAR: Seconds = 0.3;
/** An onset and an ending that are off by no more than this from one another are both as exact as sound is. */
const SOFT: Seconds = 0.04;
/** Fewer silences do not tell it. */
const LEAST_SILENCES = 5;
/** All pairs of so many points are compared. */
const MOST_POINTS = 200;

/**
 * The clock of a transcript that was made of another version of the recording: one that began earlier or later, or ran at another frame
 * rate. Found by laying what words cover over what is heard, at all shifts (cross-correlation).
 * @param spans words, or lines where only those have times, in order
 * @param leastOffset less than that is left as it is
 * @returns undefined where they are right as they are, or where nothing can be told
 */
export function clockOf(spans: readonly Range[], sound: SoundToFit, leastOffset: Seconds = LEAST_OFFSET): WordsClock | undefined {
  const [first, last] = [spans[0], spans.at(-1)];
  // Of what lasts longer, less than enough can lie within the recording.
  if (!first || !last || spans.length < ENOUGH || last.start - first.start > sound.duration / OVERLAP) return undefined;
  const beginnings = new Beginnings(sound.silences, sound.duration);
  if (areExact(spans, beginnings, sound)) return undefined;
  // Where none lies within the recording, they could not be further from it.
  const before = beginnings.overSilence(spans) ?? 1;
  const { clock, height } = likeliestClock(spans, sound);
  if (height < LEAST_CLOCK_HEIGHT) return undefined;
  const isMoved = clock.rate !== 1 || Math.abs(clock.offset) >= leastOffset;
  if (!isMoved) return undefined;
  const after = beginnings.overSilence(spans.map((span) => onClock(span, clock)));
  const isBetter = after !== undefined && after <= BETTER * before;
  return isBetter || awayFrom(spans, clock, sound) <= BETTER * awayFrom(spans, AS_THEY_ARE, sound) ? clock : undefined;
}

/** Whether words are exact from beginning to end, by far the most usual case, in which nothing needs to be tried. */
function areExact(spans: readonly Range[], beginnings: Beginnings, sound: SoundToFit): boolean {
  const length = Math.ceil(spans.length / EXACT_PARTS);
  return Array.from({ length: EXACT_PARTS }, (_, k) => spans.slice(k * length, (k + 1) * length)).every((part) => {
    const [from, to] = [part[0]?.start ?? 0, part.at(-1)?.end ?? 0];
    const silences = sound.silences.filter(({ start, end }) => end >= from && start <= to);
    const over = beginnings.overSilence(part);
    return over !== undefined && over <= USUAL_OVER_SILENCE && awayFrom(part, AS_THEY_ARE, { ...sound, silences }) <= EXACT;
  });
}

const AS_THEY_ARE: WordsClock = { offset: 0, rate: 1 };

/** How far half of the words that begin beside silences are from where sound sets in, at most. */
function awayFrom(spans: readonly Range[], clock: WordsClock, { silences }: SoundToFit): Seconds {
  const onsets = silences.filter(({ start, end }) => end - start >= CLEAR_SILENCE).map(({ end }) => end);
  const starts = spans.map((span) => onClock(span, clock).start);
  return quantile(
    leftAt(onsets, starts).map(({ left }) => Math.abs(left)),
    0.5,
  );
}

/**
 * The clock on which words go best with what is heard.
 * @param spans one at least, in order
 * @returns with how far it stands out from all others, in standard deviations
 */
export function likeliestClock(
  spans: readonly Range[],
  { duration, silences }: SoundToFit,
): { readonly clock: WordsClock; readonly height: number } {
  const heard = heardSteps(silences, duration);
  const tried = RATES.map((rate) => {
    const { shift, height } = bestShift(heard, steps(spans.map((span) => onClock(span, { offset: 0, rate }))), OVERLAP);
    const clock = { offset: shift / RATE - rate * (spans[0] as Range).start, rate };
    return { clock, height, weight: rate === 1 ? height * RARE : height };
  });
  const { clock, height } = tried.reduce((a, b) => (b.weight > a.weight ? b : a));
  return { clock: refined(spans, withDrift(spans, clock, heard), silences), height };
}

/** A stretch on the sound's clock. */
export const onClock = ({ start, end }: Range, { offset, rate }: WordsClock): Range => ({
  start: offset + rate * start,
  end: offset + rate * end,
});

/** One where somebody is heard, less the mean. */
function heardSteps(silences: readonly Range[], duration: Seconds): Float32Array {
  const heard = new Float32Array(Math.ceil(duration * RATE)).fill(1);
  for (const { start, end } of silences)
    if (end - start >= CLEAR_SILENCE) heard.fill(0, Math.round(start * RATE), Math.round(end * RATE));
  return evened(heard);
}

/** One where a word begins, less the mean, from the first word on. */
function steps(spans: readonly Range[]): Float32Array {
  const from = (spans[0] as Range).start;
  const covered = new Float32Array(Math.ceil(((spans.at(-1) as Range).start - from + BEGINNING) * RATE) + 1);
  for (const { start, end } of spans)
    covered.fill(1, Math.round((start - from) * RATE), Math.round((Math.min(end, start + BEGINNING) - from) * RATE));
  return evened(covered);
}

function evened(signal: Float32Array): Float32Array {
  const mean = signal.reduce((sum, value) => sum + value, 0) / signal.length;
  return signal.map((value) => value - mean);
}

/** The same clock with a rate of its own, where what is left between words and sound grows evenly from stretch to stretch. */
function withDrift(spans: readonly Range[], clock: WordsClock, heard: Float32Array): WordsClock {
  const found: Left[] = [];
  for (let k = 0; k + STRETCH <= spans.length; k += STRETCH / 2) {
    const own = spans.slice(k, k + STRETCH).map((span) => onClock(span, clock));
    const [first, last] = [own[0] as Range, own.at(-1) as Range];
    const from = Math.max(0, Math.round((first.start - ASIDE) * RATE));
    const { shift } = bestShift(heard.subarray(from, Math.round((last.start + BEGINNING + ASIDE) * RATE)), steps(own), 1);
    found.push({ at: (first.start + last.start) / 2, left: (from + shift) / RATE - first.start });
  }
  if (found.length < LEAST_STRETCHES) return clock;
  const line = lineThrough(found);
  const grown = line.slope * (onClock(spans.at(-1) as Range, clock).start - onClock(spans[0] as Range, clock).start);
  const isEven = line.apart <= Math.min(MOST_APART, AGREES * Math.abs(grown));
  return isEven && Math.abs(grown) >= LEAST_GROWTH ? moved(clock, line) : clock;
}

/** What is left between words and the sound beside them, taken off. Their rate is touched where it is no usual one. */
function refined(spans: readonly Range[], clock: WordsClock, silences: readonly Range[]): WordsClock {
  const clear = silences.filter(({ start, end }) => end - start >= CLEAR_SILENCE);
  const [onsets, endings] = [clear.map(({ end }) => end), clear.map(({ start }) => start)];
  const startsLeft = (by: WordsClock) =>
    leftAt(
      onsets,
      spans.map((span) => onClock(span, by).start),
    );
  const before = startsLeft(clock);
  if (before.length < LEAST_SILENCES) return clock;
  const straight = RATES.includes(clock.rate) ? clock : moved(clock, lineThrough(before));
  const early = middleOf(startsLeft(straight));
  // Ends of words may last on into silences. Where they do not, what is soft at an onset and at an ending evens out.
  const ends = spans.map((span) => onClock(span, straight).end).sort((a, b) => a - b);
  const late = middleOf(leftAt(endings, ends));
  return moved(straight, { slope: 0, level: Math.abs(early - late) <= SOFT ? (early + late) / 2 : early });
}

/** What is left at each edge of sound up to the edge of a word that is nearest to it. @param words in order */
function leftAt(sound: readonly Seconds[], words: readonly Seconds[]): Left[] {
  return sound.flatMap((edge): Left[] => {
    const next = firstAfter(words.length, (k) => words[k] as Seconds, edge);
    const near = [words[next - 1], words[next]].flatMap((at) => (at === undefined ? [] : [edge - at]));
    const left = near.sort((a, b) => Math.abs(a) - Math.abs(b))[0];
    return left !== undefined && Math.abs(left) <= NEAR ? [{ at: edge - left, left }] : [];
  });
}

const middleOf = (found: readonly Left[]): Seconds =>
  quantile(
    found.map(({ left }) => left),
    0.5,
  );

/** How far words stand from where they are heard, at a moment of their clock. */
interface Left {
  readonly at: Seconds;
  readonly left: Seconds;
}

interface Line {
  readonly slope: number;
  readonly level: Seconds;
}

/** A line through most points, whatever the others are (Theil 1950, Sen 1968), and how far half of them lie from it at most. */
function lineThrough(points: readonly Left[]): Line & { readonly apart: Seconds } {
  const step = Math.ceil(points.length / MOST_POINTS);
  const some = points.filter((_, k) => k % step === 0);
  const slopes = some.flatMap((a, k) => some.slice(k + 1).map((b) => (b.left - a.left) / (b.at - a.at)));
  const slope = quantile(slopes, 0.5);
  const level = quantile(
    points.map(({ at, left }) => left - slope * at),
    0.5,
  );
  return {
    slope,
    level,
    apart: quantile(
      points.map(({ at, left }) => Math.abs(left - level - slope * at)),
      0.5,
    ),
  };
}

/** A clock by which words stand further on, by what a line says of each moment. */
const moved = ({ offset, rate }: WordsClock, { slope, level }: Line): WordsClock => ({
  offset: offset + level + slope * offset,
  rate: rate * (1 + slope),
});
