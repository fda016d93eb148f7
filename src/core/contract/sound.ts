import type { Seconds } from '../time/range.ts';

/** Sound is served in parts of this length, so that each has one address and can be kept by the browser. */
export const SOUND_PART_SECONDS: Seconds = 8;
export const SOUND_RATE = 48_000;
