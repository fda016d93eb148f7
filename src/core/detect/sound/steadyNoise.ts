import type { LevelCurve } from '../../curves/level.ts';
import { firstAfter } from '../../time/range.ts';
import { EXTENT, type Extents } from './levelExtents.ts';
import { BLOCK, type TrackedLevels } from './levelTracking.ts';

/** Noise is looked for in stretches of four tenths of a second, from tenth to tenth. */
const EXTENTS = 4;
const STRETCH = EXTENTS * EXTENT;
/** In half decibels: noise stays at least this far under the voice. */
const UNDER_SPEECH = 30;
/** ... comes and goes by no more than this over a stretch; a voice falls silent and starts again. */
const MOST_RANGE = 24;
/** ... and keeps this close to a straight line. Levels of 30 ms of steady noise spread by half a decibel, those of a voice by five. */
const MOST_SPREAD = 2.5;
/** Beyond a stretch noise goes on as long as it stays this near to the line, up to a tenth of a second. */
const NEAR_LINE = 6;

/**
 * Where there is a noise too even for a voice and well under it, however it rises: a room that a microphone with automatic gain
 * turns up as soon as nobody speaks. A floor that is tracked over seconds is too slow for that.
 * @param holdAt the level code under which nothing counts as sound anyway, by block
 * @returns start and end in turn, in level samples, in order
 */
export function steadyNoise(
  { codes }: LevelCurve,
  { low, high }: Extents,
  { speech }: TrackedLevels,
  holdAt: (block: number) => number,
): Int32Array {
  const found: number[] = [];
  let hold = 0;
  for (let at = 0; (at + EXTENTS) * EXTENT <= codes.length; at++) {
    const from = at * EXTENT;
    const block = Math.floor(from / BLOCK);
    if (from % BLOCK === 0) hold = holdAt(block);
    const loudest = (speech[block] as number) - UNDER_SPEECH;
    let most = high[at] as number;
    let least = low[at] as number;
    for (let k = at + 1; k < at + EXTENTS && most <= loudest; k++) {
      most = Math.max(most, high[k] as number);
      least = Math.min(least, low[k] as number);
    }
    if (most > loudest || most - least > MOST_RANGE || most < hold) continue;
    const line = lineThrough(codes, from);
    if (!line) continue;
    const onLine = (k: number) => Math.abs((codes[k] as number) - line.at - line.slope * (k - from)) <= NEAR_LINE;
    let [start, end] = [from, from + STRETCH];
    while (start > 0 && from - start < EXTENT && onLine(start - 1)) start--;
    while (end < codes.length && end - from - STRETCH < EXTENT && onLine(end)) end++;
    if (found.length > 0 && start <= (found.at(-1) as number)) found[found.length - 1] = Math.max(end, found.at(-1) as number);
    else found.push(start, end);
  }
  return Int32Array.from(found);
}

/** The straight line that a stretch keeps to, by least squares; undefined when it does not. */
function lineThrough(codes: Uint8Array, from: number): { at: number; slope: number } | undefined {
  let sum = 0;
  let along = 0;
  for (let k = 0; k < STRETCH; k++) {
    const code = codes[from + k] as number;
    sum += code;
    along += code * k;
  }
  const middle = (STRETCH - 1) / 2;
  const slope = (along - middle * sum) / ((STRETCH * (STRETCH * STRETCH - 1)) / 12);
  const at = sum / STRETCH - slope * middle;
  let off = 0;
  for (let k = 0; k < STRETCH; k++) off += ((codes[from + k] as number) - at - slope * k) ** 2;
  return off <= STRETCH * MOST_SPREAD ** 2 ? { at, slope } : undefined;
}

/** Calls back with each stretch of a list, start and end in turn, that reaches into `[from, to)`. */
export function within(list: Int32Array, from: number, to: number, report: (from: number, to: number) => void): void {
  const first = firstAfter(list.length >> 1, (k) => list[2 * k + 1] as number, from);
  for (let k = 2 * first; k < list.length && (list[k] as number) < to; k += 2)
    report(Math.max(from, list[k] as number), Math.min(to, list[k + 1] as number));
}
