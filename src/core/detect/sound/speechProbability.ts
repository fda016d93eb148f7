import { LEVEL_RATE } from '../../curves/level.ts';
import { SPEECH_RATE, type SpeechCurve } from '../../curves/speech.ts';
import type { Range } from '../../time/range.ts';

/**
 * Codes (of 255). The model is slow to let go and quick to hear: somebody speaks until the probability falls under
 * `LETTING_GO`, and from when it passes `HEARING` on.
 */
const LETTING_GO = 90;
const HEARING = 31;
const SPEAKING = 153;
/** Speech was there up to this much before the first frame in which it is heard: measured on speech with known times. */
const ONSET_LEAD = 0.09 * LEVEL_RATE;
/** Frames that must hold speech for a short sound to be a word: an eighth of a second. */
const LEAST_HEARD = 4;
/** The model still hears a word this long after its end. */
const LINGERS = 0.12 * LEVEL_RATE;
/** ... and goes on up to this much after the model lets go: a last consonant is soft, and no voice. */
const ENDING = 0.1 * LEVEL_RATE;
/** A stretch without speech is worth taking out of loud sound from this on: longer than any consonant. */
const LEAST_NOISE = 0.25 * LEVEL_RATE;

const PER_SAMPLE = SPEECH_RATE / LEVEL_RATE;

const NO_NOISE: readonly number[] = [];

/** The measured probability of speech, asked in level samples. */
export class SpeechWitness {
  /** sum of the codes before each frame, so that the mean of any stretch is two look-ups */
  private readonly sums: Uint32Array;
  /** frames before each one in which speech may be ending or absent: none of them, no noise */
  private readonly lows: Uint32Array;

  constructor(readonly curve: SpeechCurve) {
    const { codes } = curve;
    this.sums = new Uint32Array(codes.length + 1);
    this.lows = new Uint32Array(codes.length + 1);
    for (let k = 0; k < codes.length; k++) {
      this.sums[k + 1] = (this.sums[k] as number) + (codes[k] as number);
      this.lows[k + 1] = (this.lows[k] as number) + ((codes[k] as number) < LETTING_GO ? 1 : 0);
    }
  }

  /** The highest probability (0..255) over `[from, to)`. */
  most(from: number, to: number): number {
    const { codes } = this.curve;
    let most = 0;
    const last = Math.min(codes.length - 1, Math.floor((to - 1) * PER_SAMPLE));
    for (let k = Math.max(0, Math.floor(from * PER_SAMPLE)); k <= last; k++) most = Math.max(most, codes[k] as number);
    return most;
  }

  /** Whether anybody is heard in a stretch, in seconds, at all. */
  hears({ start, end }: Range): boolean {
    return this.most(Math.floor(start * LEVEL_RATE), Math.ceil(end * LEVEL_RATE)) >= SPEAKING;
  }

  /** The mean probability over `[from, to)`, 0..1. */
  mean(from: number, to: number): number {
    const { codes } = this.curve;
    const first = Math.floor(from * PER_SAMPLE);
    const last = Math.min(codes.length, Math.max(first + 1, Math.floor(to * PER_SAMPLE)));
    if (last <= first) return 0;
    return ((this.sums[last] as number) - (this.sums[first] as number)) / (last - first) / 255;
  }

  /** Whether speech is heard long enough over `[from, to)` to be more than a slip of the model. */
  speaks(from: number, to: number): boolean {
    const { codes } = this.curve;
    const last = Math.min(codes.length - 1, Math.floor((to - 1) * PER_SAMPLE));
    let heard = 0;
    for (let k = Math.max(0, Math.floor(from * PER_SAMPLE)); k <= last; k++) if ((codes[k] as number) >= SPEAKING) heard++;
    return heard >= LEAST_HEARD;
  }

  /** Whether nothing of a word that ended at `from` is heard any more up to `to`. */
  hushedAfter(from: number, to: number): boolean {
    return this.most(from + LINGERS, to) < LETTING_GO;
  }

  silent(from: number, to: number): boolean {
    return this.most(from, to) < HEARING;
  }

  /**
   * Parts of a stretch of sound in which nobody speaks; pairs of start and end. Sound that is no speech: a gust, a
   * lorry, music, the echo after a word.
   */
  noiseIn(from: number, to: number): readonly number[] {
    const { codes } = this.curve;
    const noise: number[] = [];
    const first = Math.floor(from * PER_SAMPLE);
    const last = Math.min(codes.length, Math.ceil(to * PER_SAMPLE));
    if (last <= first || this.lows[last] === this.lows[first]) return NO_NOISE;
    let start = from;
    let silent = true;
    for (let k = first; k < last; k++) {
      const code = codes[k] as number;
      if (silent && code >= HEARING) {
        const at = Math.floor(k / PER_SAMPLE) - ONSET_LEAD;
        if (at - start >= LEAST_NOISE) noise.push(start, at);
        silent = false;
      } else if (!silent && code < LETTING_GO && this.silentFrom(k)) {
        start = Math.ceil(k / PER_SAMPLE) + ENDING;
        silent = true;
      }
    }
    if (silent && to - start >= LEAST_NOISE) noise.push(start, to);
    return noise;
  }

  /** Whether the probability goes on falling from a frame on, until nobody is heard. */
  private silentFrom(frame: number): boolean {
    const { codes } = this.curve;
    for (let k = frame; k < codes.length; k++) {
      if ((codes[k] as number) >= LETTING_GO) return false;
      if ((codes[k] as number) < HEARING) return true;
    }
    return true;
  }
}

/** Share of the loud samples at which the model hears speech. Under `LEAST_TRUST` it does not know this voice. */
export function trustIn({ codes }: SpeechCurve, loud: (report: (from: number, to: number) => void) => void): number {
  let heard = 0;
  let all = 0;
  loud((from, to) => {
    all += to - from;
    // Frame by frame: one stands for several samples.
    for (let frame = Math.floor(from * PER_SAMPLE), at = from; at < to; frame++) {
      const next = Math.min(to, Math.ceil((frame + 1) / PER_SAMPLE));
      if ((codes[frame] ?? 0) >= SPEAKING) heard += next - at;
      at = next;
    }
  });
  return all === 0 ? 0 : heard / all;
}
export const LEAST_TRUST = 0.4;
