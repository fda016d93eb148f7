import type { Seconds } from '../time/range.ts';

/** Samples of a voice curve a second: one each 16 ms. */
export const VOICE_RATE = 62.5;
export const VOICE_HOP: Seconds = 1 / VOICE_RATE;

/** The lowest pitch that has a code, and codes an octave. */
const LOWEST_PITCH = 55;
const CODES_AN_OCTAVE = 48;

/**
 * What the voice does on one track, two bytes a sample: the pitch, 0 where nothing is voiced, and how much the spectrum
 * changes within a tenth of a second, 0 for a sound that is held, 255 for another sound.
 */
export interface VoiceCurve {
  readonly codes: Uint8Array;
}

export const pitchToCode = (hertz: number): number =>
  hertz <= 0 ? 0 : Math.max(1, Math.min(255, Math.round(Math.log2(hertz / LOWEST_PITCH) * CODES_AN_OCTAVE) + 1));

/** Semitones between two pitch codes. */
export const semitones = (a: number, b: number): number => ((b - a) * 12) / CODES_AN_OCTAVE;
