import type { Seconds } from '../time/range.ts';

/** A level in dB relative to full scale; 0 is the loudest a file can hold. */
export type Dbfs = number;

/** Samples of a level curve a second: one each 10 ms. */
export const LEVEL_RATE = 100;
export const LEVEL_HOP: Seconds = 1 / LEVEL_RATE;

/**
 * Level of one track over time. `codes[k]` stands for the 10 ms from `k * LEVEL_HOP` on (RMS of the 30 ms round
 * them, speech band) in steps of half a decibel: `dBFS = code / 2 - 127.5`. Code 0 is digital silence.
 * A byte a step is enough: detection works with differences of several decibels, and three hours are one megabyte.
 */
export interface LevelCurve {
  readonly codes: Uint8Array;
}

export const codeToDbfs = (code: number): Dbfs => code / 2 - 127.5;

export const dbfsToCode = (level: Dbfs): number => Math.max(0, Math.min(255, Math.round((level + 127.5) * 2)));

/** Mean square of samples in -1..1 to a level code. */
export const powerToCode = (power: number): number => (power <= 1e-13 ? 0 : dbfsToCode(10 * Math.log10(power)));
