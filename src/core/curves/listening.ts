import type { Range, Seconds } from '../time/range.ts';
import { CEPSTRUM_HOP, type Cepstra, COEFFICIENTS } from './cepstra.ts';
import type { Echo } from './echoes.ts';

/** Tries at one line lie no further apart. */
const FURTHEST: Seconds = 300;
/** Frames of a beginning whose thirds are compared before anything else is. */
const SIGNATURE = 36;
/** Beginnings whose thirds are further apart than this share of what two beginnings usually are, are not looked at. */
const MOST_SIGNATURE = 0.8;
/** Either may begin with a small word more: frames by which its signature is taken later. */
const SHIFTS = [0, 6, 12, 18];
/** A pair of frames speaks for the same sound up to this share of the distance of two frames taken by chance. */
const ALIKE = 0.58;
/** Two sayings drift apart by this share of their length, this much at least, and this much at most. */
const DRIFT = 0.4;
const LEAST_DRIFT = 25;
const MOST_DRIFT = Math.round(4 / CEPSTRUM_HOP);
/** A frame that only one of two sayings has: drawn out, or a sound more. Costs this share of chance. */
const STRAY = 0.12;
/** Sayings have parted when they have lost this much: as much as a second of other sounds loses. */
const LOST = 6;
/** Sayings agree over so much at least, in frames that both have. */
const LEAST_MATCHED = Math.round(0.9 / CEPSTRUM_HOP);
const MOST_CLOSENESS = 0.52;
/** A saying goes to the end of the stretch that its last sound is in, when it is so far inside. */
const INSIDE = 8;
/** An attempt lasts no longer than a paragraph. */
const LONGEST = Math.round(60 / CEPSTRUM_HOP);
/** Shifts, in frames, by which a stretch is laid over itself, and the share of chance by which speech differs from itself then. */
const LEAST_SHIFT = 10;
const MOST_SHIFT = 60;
const SHIFT_STEP = 5;
const LEAST_OWN_CHANGE = 0.75;
/** Pauses of other lengths move what is said inside an echo by so much. */
const SAME_DISTANCE: Seconds = 3;
const SAMPLED_PAIRS = 4000;
const ENOUGH_BEGINNINGS = 12;

/**
 * Finds stretches that sound like earlier ones from their beginnings on, as a second try at a line does. Every stretch
 * between pauses is laid beside those of the five minutes before: first the thirds of their beginnings, then frame by frame by
 * dynamic time warping (Sakoe and Chiba 1978) in a band along the diagonal. As in searching for like sequences (Altschul et al.
 * 1990) a pair is given up as soon as it has lost more than it is likely to win back.
 * @param stretches of speech between pauses, in order
 * @yields what was found since, and how far the search is, so that other work gets its turn
 */
export function* findEchoes(cepstra: Cepstra, stretches: readonly Range[]): Generator<{ echoes: Echo[]; share: number }> {
  const speech = speechFrames(cepstra, stretches);
  if (speech.begins.length < 2) return;
  const chance = distanceByChance(speech);
  const signatures = speech.begins.map((from) => SHIFTS.map((shift) => signatureOf(speech, from + shift)));
  const mostApart = MOST_SIGNATURE * signatureByChance(signatures.map(([first]) => first as Float32Array));
  const warp = new Warp(speech, chance);
  let echoes: Echo[] = [];
  let going: Echo[] = [];
  let earliest = 0;
  for (let right = 1; right < speech.begins.length; right++) {
    const start = (stretches[right] as Range).start;
    while ((stretches[earliest] as Range).start < start - FURTHEST) earliest++;
    going = going.filter((echo) => echo.right.end > start);
    for (let left = earliest; left < right; left++) {
      if (going.some((echo) => isPartOf(echo, (stretches[left] as Range).start, start))) continue;
      if (leastApart(signatures[left] as Signatures, signatures[right] as Signatures) > mostApart) continue;
      const echo = compare(warp, speech, stretches, left, right, chance);
      if (!echo) continue;
      echoes.push(echo);
      going.push(echo);
    }
    // One stretch may match many others for a minute each: whoever asks must be able to breathe between any two.
    yield { echoes, share: right / speech.begins.length };
    echoes = [];
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
  /** the stretch that each frame is in */
  readonly stretch: Int32Array;
}

function speechFrames({ values, frames }: Cepstra, stretches: readonly Range[]): SpeechFrames {
  const spans = stretches.map(({ start, end }) => {
    const from = Math.min(frames, Math.round(start / CEPSTRUM_HOP));
    return [from, Math.max(from, Math.min(frames, Math.round(end / CEPSTRUM_HOP)))] as const;
  });
  const count = spans.reduce((sum, [from, to]) => sum + to - from, 0);
  const kept = new Float32Array(count * COEFFICIENTS);
  const stretch = new Int32Array(count);
  const begins: number[] = [];
  let at = 0;
  for (const [k, [from, to]] of spans.entries()) {
    begins.push(at);
    kept.set(values.subarray(from * COEFFICIENTS, to * COEFFICIENTS), at * COEFFICIENTS);
    stretch.fill(k, at, at + to - from);
    at += to - from;
  }
  return { values: kept, count, begins, stretch };
}

function distance(left: Float32Array, a: number, right: Float32Array, b: number): number {
  let sum = 0;
  const [from, to] = [a * COEFFICIENTS, b * COEFFICIENTS];
  for (let k = 0; k < COEFFICIENTS; k++) {
    const difference = (left[from + k] as number) - (right[to + k] as number);
    sum += difference * difference;
  }
  return Math.sqrt(sum);
}

const median = (values: Float64Array): number => values.sort()[values.length >> 1] as number;

/** The median distance of two frames of speech; pairs are taken by strides, so that every run gives the same. */
const distanceByChance = ({ values, count }: SpeechFrames): number =>
  median(
    Float64Array.from({ length: Math.min(SAMPLED_PAIRS, count) }, (_, k) =>
      distance(values, (k * 7919) % count, values, (k * 104_729 + 17) % count),
    ),
  );

/** The median distance of two beginnings; of a few nothing can be said, and all are looked at. */
const signatureByChance = (signatures: readonly Float32Array[]): number => {
  const { length } = signatures;
  if (length < ENOUGH_BEGINNINGS) return Number.POSITIVE_INFINITY;
  const at = (k: number) => signatures[k % length] as Float32Array;
  return median(Float64Array.from({ length: Math.min(SAMPLED_PAIRS, length * 4) }, (_, k) => apart(at(k), at(k * 7 + 3))));
};

/** Mean of each third of a beginning. */
function signatureOf({ values, count }: SpeechFrames, from: number): Float32Array {
  const signature = new Float32Array(3 * COEFFICIENTS);
  const third = SIGNATURE / 3;
  for (let part = 0; part < 3; part++)
    for (let frame = 0; frame < third; frame++) {
      const at = Math.min(count - 1, from + part * third + frame);
      for (let k = 0; k < COEFFICIENTS; k++)
        signature[part * COEFFICIENTS + k] =
          (signature[part * COEFFICIENTS + k] as number) + (values[at * COEFFICIENTS + k] as number) / third;
    }
  return signature;
}

const apart = (a: Float32Array, b: Float32Array): number =>
  (distance(a, 0, b, 0) + distance(a, 1, b, 1) + distance(a, 2, b, 2)) / 3;

type Signatures = readonly Float32Array[];

function leastApart(left: Signatures, right: Signatures): number {
  let least = Number.POSITIVE_INFINITY;
  for (let k = 0; k < SHIFTS.length; k++) {
    least = Math.min(least, apart(left[0] as Float32Array, right[k] as Float32Array));
    if (k > 0) least = Math.min(least, apart(left[k] as Float32Array, right[0] as Float32Array));
  }
  return least;
}

function compare(
  warp: Warp,
  speech: SpeechFrames,
  stretches: readonly Range[],
  left: number,
  right: number,
  chance: number,
): Echo | undefined {
  const [a, b] = [speech.begins[left] as number, speech.begins[right] as number];
  const together = warp.run(a, Math.min(b - a, LONGEST), b, Math.min(speech.count - b, LONGEST));
  if (together.matched < LEAST_MATCHED || together.closeness > MOST_CLOSENESS) return undefined;
  if (repeatsItself(speech, a, together.left, chance) || repeatsItself(speech, b, together.right, chance)) return undefined;
  const endOf = (from: number, length: number): Seconds => {
    const last = from + Math.max(1, length - INSIDE) - 1;
    return (stretches[speech.stretch[last] as number] as Range).end;
  };
  return {
    left: { start: (stretches[left] as Range).start, end: endOf(a, together.left) },
    right: { start: (stretches[right] as Range).start, end: endOf(b, together.right) },
    matched: together.matched * CEPSTRUM_HOP,
    closeness: together.closeness,
  };
}

/**
 * Whether a stretch is like itself a little later: a bell, a motor, a hammer, a tone. What is said in it is no line then, and
 * that it comes again says nothing.
 */
function repeatsItself({ values, count }: SpeechFrames, from: number, length: number, chance: number): boolean {
  for (let shift = LEAST_SHIFT; shift <= MOST_SHIFT; shift += SHIFT_STEP) {
    const until = Math.min(from + length, count - shift);
    if (until - from < LEAST_MATCHED / 2) break;
    let sum = 0;
    for (let k = from; k < until; k++) sum += distance(values, k, values, k + shift);
    if (sum / (until - from) < LEAST_OWN_CHANGE * chance) return true;
  }
  return false;
}

/** How far two sayings go together: frames of each, frames that both have, and how near these are. */
interface Together {
  readonly left: number;
  readonly right: number;
  readonly matched: number;
  readonly closeness: number;
}

/** Dynamic time warping from two beginnings on, row by row, only where it is still worth while. Its rows are used again. */
class Warp {
  private readonly rows = [newRow(), newRow()] as const;

  constructor(
    private readonly speech: SpeechFrames,
    private readonly chance: number,
  ) {}

  run(a: number, leftLength: number, b: number, rightLength: number): Together {
    const { values } = this.speech;
    let [row, before] = this.rows;
    let best = { score: 0, left: 0, right: 0, matched: 0, far: 0 };
    let [low, high] = [0, Math.min(rightLength, LEAST_DRIFT)];
    for (let j = 0; j <= high; j++) set(before, j, -STRAY * j, 0, 0);
    for (let i = 1; i <= leftLength; i++) {
      const drift = Math.min(MOST_DRIFT, Math.max(LEAST_DRIFT, DRIFT * i));
      const from = Math.max(low, Math.ceil(i - drift));
      const until = Math.min(rightLength, Math.floor(i + drift));
      let [first, last] = [-1, -1];
      for (let j = from; j <= until; j++) {
        let score = j <= high ? (before.score[j] as number) - STRAY : Number.NEGATIVE_INFINITY;
        let matched = j <= high ? (before.matched[j] as number) : 0;
        let far = j <= high ? (before.far[j] as number) : 0;
        if (j > low && j - 1 <= high) {
          const apartness = distance(values, a + i - 1, values, b + j - 1) / this.chance;
          const both = (before.score[j - 1] as number) + ALIKE - apartness;
          if (both > score) {
            score = both;
            matched = (before.matched[j - 1] as number) + 1;
            far = (before.far[j - 1] as number) + apartness;
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
    const { left, right, matched, far } = best;
    return { left, right, matched, closeness: matched > 0 ? far / matched : 1 };
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
