import type { LevelCurve } from '../../curves/level.ts';
import { BLOCK } from './levelTracking.ts';

/** Level samples. */
export const EXTENT = BLOCK / 5;

/** The lowest and highest code of each tenth of a second: most of them need no look at each sample. */
export interface Extents {
  readonly low: Uint8Array;
  readonly high: Uint8Array;
}

export function extentsOf({ codes }: LevelCurve): Extents {
  const count = Math.ceil(codes.length / EXTENT);
  const extents = { low: new Uint8Array(count), high: new Uint8Array(count) };
  for (let at = 0, k = 0; at < count; at++) {
    let low = 255;
    let high = 0;
    for (const until = Math.min(codes.length, k + EXTENT); k < until; k++) {
      const code = codes[k] as number;
      if (code < low) low = code;
      if (code > high) high = code;
    }
    extents.low[at] = low;
    extents.high[at] = high;
  }
  return extents;
}
