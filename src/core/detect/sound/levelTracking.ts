import { LEVEL_RATE, type LevelCurve } from '../../curves/level.ts';

/** Seconds that one tracked value stands for. */
const BLOCK_SECONDS = 0.5;
export const BLOCK = BLOCK_SECONDS * LEVEL_RATE;

/** Noise floor and speech level of one track over time, as level codes, one for each block of `BLOCK` samples. */
export interface TrackedLevels {
  readonly floor: Uint8Array;
  readonly speech: Uint8Array;
  /** block indexes at which the gain or the room changed for good */
  readonly changes: readonly number[];
}

const NARROW = Math.round(8 / BLOCK_SECONDS);
const WIDE = Math.round(40 / BLOCK_SECONDS);
/** A stretch is compared with as much on the other side when looking for a change of gain. */
const SIDE = Math.round(8 / BLOCK_SECONDS);
const FLOOR_QUANTILE = 0.05;
const SPEECH_QUANTILE = 0.9;
/** Level codes are half decibels. */
const CODES_PER_DB = 2;
/** The floor inside unbroken speech may not climb further than this over the wider surroundings. */
const FLOOR_RISE = 5 * CODES_PER_DB;
/** A floor that steps by this much and stays there is another gain or another room. */
const CHANGE = 5 * CODES_PER_DB;
/** A stretch this long that stays near the floor is a rest; a dip inside speech is shorter. */
const REST_STRIDE = 5;
const REST_STRIDES = (0.2 * LEVEL_RATE) / REST_STRIDE;
const REST_LENGTH = REST_STRIDES * REST_STRIDE;
const REST_OVER_FLOOR = 5 * CODES_PER_DB;
/** Speech this far over the floor or less means that there is no speech to go by. */
const LEAST_CONTRAST = 12 * CODES_PER_DB;
/** Sound that never varies is a room if it is under this (−50 dBFS), and otherwise something to be kept. */
const QUIET_ROOM = 155;
/** Rooms are never more than this under the voice; digital silence is. */
const MOST_CONTRAST = 60 * CODES_PER_DB;

/**
 * Follows floor and speech level by quantiles of a sliding window: the floor is what the quietest twentieth of the
 * surroundings stay under, speech what the loudest tenth exceed (minimum statistics after R. Martin, "Noise power
 * spectral density estimation based on optimal smoothing and minimum statistics", IEEE TSAP 9(5), 2001, with
 * quantiles for minima, which is steadier on short windows). Windows do not reach across a change of gain.
 *
 * Linear in the length of the curve: histograms of level codes are slid along, one block in and one out.
 */
export function trackLevels({ codes }: LevelCurve): TrackedLevels {
  const blocks = Math.max(1, Math.ceil(codes.length / BLOCK));
  const extent = extentOf(codes);
  const changes = findChanges(codes, extent, blocks);
  const floor = new Uint8Array(blocks);
  const speech = new Uint8Array(blocks);
  const bounds = [0, ...changes, blocks];
  for (let part = 0; part + 1 < bounds.length; part++) {
    const from = bounds[part] as number;
    const to = bounds[part + 1] as number;
    const [wideFloor, wideSpeech] = slideQuantiles(codes, extent, from, to, WIDE, [FLOOR_QUANTILE, SPEECH_QUANTILE]);
    const [narrowFloor] = slideQuantiles(codes, extent, from, to, NARROW, [FLOOR_QUANTILE]);
    for (let block = from; block < to; block++) {
      const loud = wideSpeech[block - from] as number;
      const quiet = Math.min(narrowFloor[block - from] as number, (wideFloor[block - from] as number) + FLOOR_RISE);
      // Loud all along and never quieter is a voice or music without a pause, not a loud room.
      const unbroken = quiet > QUIET_ROOM && loud - quiet < LEAST_CONTRAST;
      floor[block] = unbroken ? quiet - LEAST_CONTRAST : Math.max(quiet, loud - MOST_CONTRAST);
      speech[block] = Math.max(loud, Math.min(255, quiet + LEAST_CONTRAST));
    }
  }
  // A change falls somewhere inside a block: the blocks beside it get the higher floor, or half a second of the
  // noisier side would pass for sound.
  for (const change of changes) {
    const higher = Math.max(floor[change - 1] as number, floor[change] as number);
    floor[change - 1] = higher;
    floor[change] = higher;
  }
  return { floor, speech, changes };
}

/** The lowest and the highest of all codes: outside them no quantile needs to be looked for. */
type Extent = readonly [low: number, high: number];

function extentOf(codes: Uint8Array): Extent {
  if (codes.length === 0) return [0, 255];
  let low = 255;
  let high = 0;
  for (let k = 0; k < codes.length; k++) {
    const code = codes[k] as number;
    if (code < low) low = code;
    if (code > high) high = code;
  }
  return [low, high];
}

/** A histogram of a window of blocks that can grow and shrink at its ends. */
class Window {
  private readonly bins = new Uint32Array(256);
  private total = 0;
  constructor(
    private readonly codes: Uint8Array,
    private readonly extent: Extent,
  ) {}

  change(block: number, sign: 1 | -1): void {
    const { codes, bins } = this;
    const until = Math.min(codes.length, (block + 1) * BLOCK);
    for (let k = block * BLOCK; k < until; k++) {
      const code = codes[k] as number;
      bins[code] = (bins[code] as number) + sign;
    }
    this.total += sign * (until - block * BLOCK);
  }

  /** The lowest code that a share `q` of the samples does not exceed. */
  quantile(q: number): number {
    const { bins, extent } = this;
    const [low, high] = extent;
    const wanted = q * this.total;
    // From the nearer end: the loudest tenth is far from the quietest code.
    if (q > 0.5) {
      let under = this.total;
      for (let code = high; code > low; code--) {
        under -= bins[code] as number;
        if (under <= wanted) return code;
      }
      return low;
    }
    let seen = 0;
    for (let code = low; code < high; code++) {
      seen += bins[code] as number;
      if (seen > wanted) return code;
    }
    return high;
  }
}

/** Quantiles of the blocks within `reach` of each block of `[from, to)`, without leaving that stretch. */
function slideQuantiles<Q extends readonly number[]>(
  codes: Uint8Array,
  extent: Extent,
  from: number,
  to: number,
  reach: number,
  wanted: readonly [...Q],
): { [K in keyof Q]: Uint8Array } {
  const out = wanted.map(() => new Uint8Array(to - from));
  const window = new Window(codes, extent);
  let first = from;
  let last = from;
  for (let block = from; block < to; block++) {
    while (last < Math.min(to, block + reach + 1)) window.change(last++, 1);
    while (first < block - reach) window.change(first++, -1);
    for (let k = 0; k < wanted.length; k++) (out[k] as Uint8Array)[block - from] = window.quantile(wanted[k] as number);
  }
  return out as { [K in keyof Q]: Uint8Array };
}

/**
 * The lowest level that a fifth of a second stays under, among those that begin in some blocks. In a room that is its noise;
 * inside unbroken speech it is the speech, whose dips are shorter. It tells a floor from a dip.
 */
function restIn(codes: Uint8Array, from: number, to: number): number {
  let rest = 255;
  const last = Math.min(to * BLOCK, (Math.floor(codes.length / REST_STRIDE) - REST_STRIDES + 1) * REST_STRIDE);
  for (let start = from * BLOCK; start < last; start += REST_STRIDE) {
    let high = 0;
    for (let k = start; k < start + REST_LENGTH && high < rest; k++) high = Math.max(high, codes[k] as number);
    rest = Math.min(rest, high);
  }
  return rest;
}

/**
 * Blocks at which the floor steps and stays: the floors of the stretches before and after differ, more than at any
 * block near by, and each stretch is long enough to hold a pause.
 */
function findChanges(codes: Uint8Array, extent: Extent, blocks: number): number[] {
  if (blocks < 2 * SIDE) return [];
  const before = new Window(codes, extent);
  const after = new Window(codes, extent);
  for (let block = 0; block < SIDE; block++) {
    before.change(block, 1);
    after.change(block + SIDE, 1);
  }
  const steps = new Int16Array(blocks);
  for (let block = SIDE; block + SIDE <= blocks; block++) {
    const [quietBefore, quietAfter] = [before.quantile(FLOOR_QUANTILE), after.quantile(FLOOR_QUANTILE)];
    const step = quietAfter - quietBefore;
    const rested =
      Math.abs(step) >= CHANGE &&
      restIn(codes, block - SIDE, block) - quietBefore <= REST_OVER_FLOOR &&
      restIn(codes, block, block + SIDE) - quietAfter <= REST_OVER_FLOOR;
    steps[block] = rested ? step : 0;
    if (block + SIDE === blocks) break;
    before.change(block - SIDE, -1);
    before.change(block, 1);
    after.change(block, -1);
    after.change(block + SIDE, 1);
  }
  const changes: number[] = [];
  for (let block = SIDE; block + SIDE <= blocks; block++) {
    const sign = Math.sign(steps[block] as number);
    if (Math.abs(steps[block] as number) < CHANGE) continue;
    let end = block;
    while (end + SIDE <= blocks && sign * (steps[end] as number) >= CHANGE) end++;
    // A window has the lower floor as soon as a little of it lies on the quiet side. So a step down is seen from
    // far before it until just after it, and a step up from just before it until far after.
    changes.push(sign < 0 ? end - 1 : block + 1);
    block = end;
  }
  return changes;
}
