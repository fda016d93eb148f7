import { LEVEL_RATE } from '../curves/level.ts';
import { SPEECH_RATE, type SpeechCurve } from '../curves/speech.ts';

/** Under this (of 255) nobody speaks; at and over the other somebody does. */
const SILENT_CODE = 31;
const SPEAKING_CODE = 153;
/** The model answers a little late and lets go a little late: what stands this near to speech may be part of it. */
export const VOUCH_SAMPLES = 0.2 * LEVEL_RATE;
/** A stretch without speech inside loud sound is worth taking out from this on. */
const LEAST_NOISE = 0.3 * LEVEL_RATE;

const PER_SAMPLE = SPEECH_RATE / LEVEL_RATE;

/** The measured probability of speech, asked in level samples. */
export class SpeechWitness {
  constructor(private readonly curve: SpeechCurve) {}

  /** The highest probability (0..255) over `[from, to)`. */
  most(from: number, to: number): number {
    const { codes } = this.curve;
    let most = 0;
    const last = Math.min(codes.length - 1, Math.floor((to - 1) * PER_SAMPLE));
    for (let k = Math.max(0, Math.floor(from * PER_SAMPLE)); k <= last; k++) most = Math.max(most, codes[k] as number);
    return most;
  }

  /** The mean probability over `[from, to)`, 0..1. */
  mean(from: number, to: number): number {
    const { codes } = this.curve;
    const first = Math.floor(from * PER_SAMPLE);
    const last = Math.min(codes.length, Math.max(first + 1, Math.floor(to * PER_SAMPLE)));
    let sum = 0;
    for (let k = first; k < last; k++) sum += codes[k] as number;
    return last > first ? sum / (last - first) / 255 : 0;
  }

  speaks = (from: number, to: number): boolean => this.most(from, to) >= SPEAKING_CODE;

  silent = (from: number, to: number): boolean => this.most(from, to) < SILENT_CODE;

  /**
   * Parts of a stretch of sound in which nobody speaks, away from speech by the time the model may be late; pairs of
   * start and end. Sound louder than a room and longer than a knock that is no speech: a gust, a lorry, music.
   */
  noiseIn(from: number, to: number): number[] {
    const { codes } = this.curve;
    const noise: number[] = [];
    const last = Math.min(codes.length, Math.ceil(to * PER_SAMPLE));
    let start = -1;
    const end = (frame: number, open: boolean) => {
      // At the edges of the sound there is silence: nothing to keep away from.
      const first = start <= from * PER_SAMPLE ? from : Math.ceil(start / PER_SAMPLE) + VOUCH_SAMPLES;
      const after = open ? to : Math.floor(frame / PER_SAMPLE) - VOUCH_SAMPLES;
      if (after - first >= LEAST_NOISE) noise.push(first, after);
      start = -1;
    };
    for (let k = Math.max(0, Math.floor(from * PER_SAMPLE)); k < last; k++) {
      const silent = (codes[k] as number) < SILENT_CODE;
      if (silent && start < 0) start = k;
      else if (!silent && start >= 0) end(k, false);
    }
    if (start >= 0) end(last, true);
    return noise;
  }
}

/** Share of the loud samples at which the model hears speech. Under `LEAST_TRUST` it does not know this voice. */
export function trustIn({ codes }: SpeechCurve, loud: (report: (from: number, to: number) => void) => void): number {
  let heard = 0;
  let all = 0;
  loud((from, to) => {
    for (let k = from; k < to; k++) {
      all++;
      if ((codes[Math.floor(k * PER_SAMPLE)] ?? 0) >= SPEAKING_CODE) heard++;
    }
  });
  return all === 0 ? 0 : heard / all;
}
export const LEAST_TRUST = 0.4;
