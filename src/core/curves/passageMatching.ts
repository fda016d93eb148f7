import type { Range, Seconds } from '../time/range.ts';
import { EMBEDDING_HOP, EMBEDDING_RATE, EMBEDDING_SIZE } from './embedding.ts';
import type { Echo, EchoStep } from './repeatedPassages.ts';

/** Tries at one line lie no further apart. */
export const FURTHEST_TRY: Seconds = 300;
/** Frames of two beginnings that are compared before anything else is, and their mean distance beyond which they are not alike. */
const GLANCE = 12;
const MOST_GLANCE = 0.72;
/** Either may begin with a small word more: frames by which one of them is taken later. */
const SHIFTS = [0, 3, 6, 9];
/** A pair of frames speaks for the same line up to this distance; two frames by chance are 1 apart. */
const ALIKE = 0.6;
/** Two sayings drift apart by this share of their length, this much at least, and this much at most, in frames. */
const DRIFT = 0.4;
const LEAST_DRIFT = 12;
const MOST_DRIFT = Math.round(4 / EMBEDDING_HOP);
/** A frame that only one of two sayings has: drawn out, or a sound more. */
const STRAY = 0.15;
/** Sayings have parted when they have lost this much: as much as half a second of other sounds loses. */
const LOST = 4;
/** Sayings agree over so many frames, and score so much, at least. */
const LEAST_MATCHED = Math.round(0.6 / EMBEDDING_HOP);
const LEAST_SCORE = 2.5;
const MOST_CLOSENESS = 0.55;
/** A saying goes to the end of the stretch that its last sound is in, when it is so far inside. */
const INSIDE = 4;
/** An attempt lasts no longer than a paragraph. */
const LONGEST = Math.round(60 / EMBEDDING_HOP);
/** Shifts by which a stretch is laid over itself, beyond what one description spans, and the distance of speech from itself then. */
const LEAST_SHIFT = 20;
const MOST_SHIFT = 50;
const SHIFT_STEP = 3;
const LEAST_OWN_CHANGE = 0.45;
/** Pauses of other lengths move what is said inside an echo by so much. */
const SAME_DISTANCE: Seconds = 3;
/** Frames that the worst part of a path lasts, and frames from one kept step of the path to the next. */
const WORST_FRAMES = Math.round(0.3 / EMBEDDING_HOP);
const STEP_FRAMES = 3;

/**
 * Finds stretches that sound like earlier ones from their beginnings on, as a second try at a line does. Every stretch
 * between pauses is laid beside those of the five minutes before: first the first half second, then frame by frame by
 * dynamic time warping (Sakoe and Chiba 1978) in a band along the diagonal. As in searching for like sequences (Altschul et al.
 * 1990) a pair is given up as soon as it has lost more than it is likely to win back.
 * @param embedding `EMBEDDING_SIZE` numbers a frame, of unit length: see `normaliseEmbedding`
 * @param stretches of speech between pauses, in order
 * @param joint the stretch from which on another recording begins: then only what is said after it is looked for before it
 * @yields what was found since, and how far the search is, so that other work gets its turn
 */
export function* findEchoes(
  embedding: Float32Array,
  stretches: readonly Range[],
  joint?: number,
): Generator<{ echoes: Echo[]; share: number }, void> {
  const speech = speechFrames(embedding, stretches);
  const { begins } = speech;
  if (begins.length < 2 || joint === 0 || joint === begins.length) return;
  const warp = new Warp(speech);
  let going: Echo[] = [];
  let earliest = 0;
  for (let right = joint ?? 1; right < begins.length; right++) {
    const { start } = stretches[right] as Range;
    const echoes: Echo[] = [];
    while ((stretches[earliest] as Range).start < start - FURTHEST_TRY) earliest++;
    going = going.filter((echo) => echo.right.end > start);
    for (let left = earliest; left < (joint ?? right); left++) {
      if (going.some((echo) => isPartOf(echo, (stretches[left] as Range).start, start))) continue;
      if (!beginAlike(speech, begins[left] as number, begins[right] as number)) continue;
      const echo = compare(warp, speech, stretches, left, right, begins[joint ?? right] as number);
      if (!echo) continue;
      echoes.push(echo);
      going.push(echo);
    }
    // One stretch may match many others for a minute each: whoever asks must be able to breathe between any two.
    yield { echoes, share: right / begins.length };
  }
}

/** Whether two beginnings lie inside an echo, as far apart as its own: they would only be found to be a part of it. */
const isPartOf = ({ left, right }: Echo, a: Seconds, b: Seconds): boolean =>
  a > left.start &&
  a < left.end &&
  b > right.start &&
  b < right.end &&
  Math.abs(b - a - (right.start - left.start)) < SAME_DISTANCE;

/** Frames of speech alone, one after another: pauses inside a saying are of any length. */
interface SpeechFrames {
  readonly values: Float32Array;
  readonly count: number;
  /** first frame of each stretch */
  readonly begins: readonly number[];
  /** the stretch that each frame is in, and where it stands in the recording */
  readonly stretch: Int32Array;
  readonly frame: Int32Array;
}

function speechFrames(embedding: Float32Array, stretches: readonly Range[]): SpeechFrames {
  const frames = Math.floor(embedding.length / EMBEDDING_SIZE);
  const spans = stretches.map(({ start, end }) => {
    const from = Math.min(frames, Math.round(start * EMBEDDING_RATE));
    return [from, Math.max(from, Math.min(frames, Math.round(end * EMBEDDING_RATE)))] as const;
  });
  const count = spans.reduce((sum, [from, to]) => sum + to - from, 0);
  const values = new Float32Array(count * EMBEDDING_SIZE);
  const stretch = new Int32Array(count);
  const frame = new Int32Array(count);
  const begins: number[] = [];
  let at = 0;
  for (const [k, [from, to]] of spans.entries()) {
    begins.push(at);
    values.set(embedding.subarray(from * EMBEDDING_SIZE, to * EMBEDDING_SIZE), at * EMBEDDING_SIZE);
    stretch.fill(k, at, at + to - from);
    for (let n = from; n < to; n++) frame[at + n - from] = n;
    at += to - from;
  }
  return { values, count, begins, stretch, frame };
}

/** Cosine distance of two frames. */
function distance({ values }: SpeechFrames, a: number, b: number): number {
  let dot = 0;
  const [from, to] = [a * EMBEDDING_SIZE, b * EMBEDDING_SIZE];
  for (let k = 0; k < EMBEDDING_SIZE; k++) dot += (values[from + k] as number) * (values[to + k] as number);
  return 1 - dot;
}

function beginAlike(speech: SpeechFrames, a: number, b: number): boolean {
  for (const shift of SHIFTS)
    if (glance(speech, a, b + shift) <= MOST_GLANCE || (shift > 0 && glance(speech, a + shift, b) <= MOST_GLANCE)) return true;
  return false;
}

function glance(speech: SpeechFrames, a: number, b: number): number {
  const until = Math.min(GLANCE, speech.count - b, speech.count - a);
  let sum = 0;
  for (let k = 0; k < until; k++) sum += distance(speech, a + k, b + k);
  return until > 0 ? sum / until : 1;
}

/** @param until the frame at which whatever the left one begins is over */
function compare(
  warp: Warp,
  speech: SpeechFrames,
  stretches: readonly Range[],
  left: number,
  right: number,
  until: number,
): Echo | undefined {
  const [a, b] = [speech.begins[left] as number, speech.begins[right] as number];
  const together = warp.run(a, Math.min(until - a, LONGEST), b, Math.min(speech.count - b, LONGEST));
  const { matched, score, closeness } = together;
  if (matched < LEAST_MATCHED || score < LEAST_SCORE || closeness > MOST_CLOSENESS) return undefined;
  if (repeatsItself(speech, a, together.left) || repeatsItself(speech, b, together.right)) return undefined;
  const endOf = (from: number, length: number): Seconds => {
    const last = from + Math.max(1, length - INSIDE) - 1;
    return (stretches[speech.stretch[last] as number] as Range).end;
  };
  const { path, worst } = pathOf(speech, a, together.left, b, together.right);
  return {
    left: { start: (stretches[left] as Range).start, end: endOf(a, together.left) },
    right: { start: (stretches[right] as Range).start, end: endOf(b, together.right) },
    matched: matched * EMBEDDING_HOP,
    closeness,
    worst,
    path,
  };
}

/**
 * Whether a stretch is like itself a little further on inside it: a bell, a motor, a hammer, a tone. What is said in it is no line then, and
 * that it comes again says nothing.
 */
function repeatsItself(speech: SpeechFrames, from: number, length: number): boolean {
  for (let shift = LEAST_SHIFT; shift <= MOST_SHIFT; shift += SHIFT_STEP) {
    const until = from + length - shift;
    if (until - from < LEAST_MATCHED) break;
    let sum = 0;
    for (let k = from; k < until; k++) sum += distance(speech, k, k + shift);
    if (sum / (until - from) < LEAST_OWN_CHANGE) return true;
  }
  return false;
}

/** How far two sayings go together: frames of each, frames that both have, and how near these are. */
interface Together {
  readonly score: number;
  readonly left: number;
  readonly right: number;
  readonly matched: number;
  readonly closeness: number;
}

const driftAt = (frame: number): number => Math.min(MOST_DRIFT, Math.max(LEAST_DRIFT, DRIFT * frame));

/** Dynamic time warping from two beginnings on, row by row, only where it is still worth while. Its rows are used again. */
class Warp {
  private readonly rows = [newRow(), newRow()] as const;

  constructor(private readonly speech: SpeechFrames) {}

  run(a: number, leftLength: number, b: number, rightLength: number): Together {
    const { speech } = this;
    let [row, before] = this.rows;
    let best = { score: 0, left: 0, right: 0, matched: 0, far: 0 };
    let [low, high] = [0, Math.min(rightLength, LEAST_DRIFT)];
    for (let j = 0; j <= high; j++) set(before, j, -STRAY * j, 0, 0);
    for (let i = 1; i <= leftLength; i++) {
      const drift = driftAt(i);
      const from = Math.max(low, Math.ceil(i - drift));
      const until = Math.min(rightLength, Math.floor(i + drift));
      let [first, last] = [-1, -1];
      for (let j = from; j <= until; j++) {
        let score = j <= high ? (before.score[j] as number) - STRAY : Number.NEGATIVE_INFINITY;
        let matched = j <= high ? (before.matched[j] as number) : 0;
        let far = j <= high ? (before.far[j] as number) : 0;
        if (j > low && j - 1 <= high) {
          const apart = distance(speech, a + i - 1, b + j - 1);
          const both = (before.score[j - 1] as number) + ALIKE - apart;
          if (both > score) {
            score = both;
            matched = (before.matched[j - 1] as number) + 1;
            far = (before.far[j - 1] as number) + apart;
          }
        }
        if (j > from && last === j - 1 && (row.score[j - 1] as number) - STRAY > score) {
          score = (row.score[j - 1] as number) - STRAY;
          matched = row.matched[j - 1] as number;
          far = row.far[j - 1] as number;
        }
        // What has lost too much is a hole in the row; beyond the last row's reach nothing but holes can follow.
        if (score < best.score - LOST) {
          set(row, j, Number.NEGATIVE_INFINITY, 0, 0);
          if (j > high + 1) break;
          continue;
        }
        set(row, j, score, matched, far);
        if (first < 0) first = j;
        last = j;
        if (score > best.score) best = { score, left: i, right: j, matched, far };
      }
      if (first < 0) break;
      [low, high] = [first, last];
      [row, before] = [before, row];
    }
    const { score, left, right, matched, far } = best;
    return { score, left, right, matched, closeness: matched > 0 ? far / matched : 1 };
  }
}

interface Row {
  readonly score: Float32Array;
  readonly matched: Float32Array;
  readonly far: Float32Array;
}

const newRow = (): Row => ({
  score: new Float32Array(LONGEST + 1),
  matched: new Float32Array(LONGEST + 1),
  far: new Float32Array(LONGEST + 1),
});

function set({ score, matched, far }: Row, at: number, ...[value, pairs, apartness]: readonly [number, number, number]): void {
  score[at] = value;
  matched[at] = pairs;
  far[at] = apartness;
}

/** The best way of going through two sayings together from end to end, thinned out, with how far apart they are along it. */
function pathOf(
  speech: SpeechFrames,
  a: number,
  leftLength: number,
  b: number,
  rightLength: number,
): { path: EchoStep[]; worst: number } {
  const pairs = alignedFrames(speech, a, leftLength, b, rightLength);
  const sums = new Float64Array(pairs.length + 1);
  for (const [k, { apart }] of pairs.entries()) sums[k + 1] = (sums[k] as number) + apart;
  const around = (k: number): number => {
    const from = Math.max(0, Math.min(pairs.length - WORST_FRAMES, k - (WORST_FRAMES >> 1)));
    const until = Math.min(pairs.length, from + WORST_FRAMES);
    return ((sums[until] as number) - (sums[from] as number)) / Math.max(1, until - from);
  };
  let worst = 0;
  const path: EchoStep[] = [];
  for (const [k, { left, right }] of pairs.entries()) {
    const apart = around(k);
    worst = Math.max(worst, apart);
    if (k % STEP_FRAMES !== 0 && k + 1 < pairs.length) continue;
    path.push({
      left: (speech.frame[a + left] as number) * EMBEDDING_HOP,
      right: (speech.frame[b + right] as number) * EMBEDDING_HOP,
      apart,
    });
  }
  return { path, worst };
}

/** Pairs of frames that go together, in order. */
function alignedFrames(speech: SpeechFrames, a: number, leftLength: number, b: number, rightLength: number) {
  const width = rightLength + 1;
  const steps = new Uint8Array((leftLength + 1) * width);
  let before = new Float32Array(width).fill(Number.NEGATIVE_INFINITY);
  let row = new Float32Array(width);
  for (let j = 0; j <= Math.min(rightLength, LEAST_DRIFT); j++) before[j] = -STRAY * j;
  for (let i = 1; i <= leftLength; i++) {
    row.fill(Number.NEGATIVE_INFINITY);
    const drift = driftAt(i);
    const until = Math.min(rightLength, Math.floor(i + drift));
    for (let j = Math.max(0, Math.ceil(i - drift)); j <= until; j++) {
      let score = (before[j] as number) - STRAY;
      let step = UP;
      if (j > 0) {
        const both = (before[j - 1] as number) + ALIKE - distance(speech, a + i - 1, b + j - 1);
        if (both > score) [score, step] = [both, BOTH];
        if ((row[j - 1] as number) - STRAY > score) [score, step] = [(row[j - 1] as number) - STRAY, ALONG];
      }
      row[j] = score;
      steps[i * width + j] = step;
    }
    [row, before] = [before, row];
  }
  const pairs: { left: number; right: number; apart: number }[] = [];
  // What only one has is compared as well: drawn out it is like the other, and another sound it is not.
  for (let [i, j] = [leftLength, rightLength]; i > 0 && j > 0; ) {
    const step = steps[i * width + j];
    if (step === undefined || step === 0) break;
    pairs.push({ left: i - 1, right: j - 1, apart: distance(speech, a + i - 1, b + j - 1) });
    if (step !== ALONG) i--;
    if (step !== UP) j--;
  }
  return pairs.reverse();
}

const [UP, BOTH, ALONG] = [1, 2, 3];
