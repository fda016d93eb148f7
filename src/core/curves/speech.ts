import type { Seconds } from '../time/range.ts';

/** Samples that one value of the speech model is about, at its own 16 kHz. */
export const SPEECH_FRAME = 512;
export const SPEECH_SAMPLE_RATE = 16_000;
/** Values a second: 31.25. */
export const SPEECH_RATE = SPEECH_SAMPLE_RATE / SPEECH_FRAME;

/**
 * Probability that one track holds speech, over time: `codes[k] / 255` stands for the 32 ms from `k / SPEECH_RATE`
 * seconds on.
 */
export interface SpeechCurve {
  readonly codes: Uint8Array;
}

export const probabilityToCode = (probability: number): number => Math.max(0, Math.min(255, Math.round(probability * 255)));

/** The mean probability of speech over a stretch, 0..1; 0 past the end. */
export function meanSpeech({ codes }: SpeechCurve, start: Seconds, end: Seconds): number {
  const first = Math.max(0, Math.floor(start * SPEECH_RATE));
  const last = Math.min(codes.length, Math.max(first + 1, Math.ceil(end * SPEECH_RATE)));
  let sum = 0;
  for (let k = first; k < last; k++) sum += codes[k] as number;
  return last > first ? sum / (last - first) / 255 : 0;
}
