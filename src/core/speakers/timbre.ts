import { Spectrum } from '../clean/spectrum.ts';
import { strongestPeriod } from '../numbers/periodicity.ts';

/** Frames a second, and numbers of each: bands of its spectrum, and its pitch. */
export const TIMBRE_RATE = 100;
export const TIMBRE_BANDS = 14;

const SAMPLE_RATE = 16_000;
const HOP = SAMPLE_RATE / TIMBRE_RATE;
const FRAME = 512;
/** Edges of the bands, in bins of a frame: about evenly apart to the ear, from 30 hertz to 5 kilohertz. */
const EDGES: readonly number[] = [1, 4, 6, 9, 12, 16, 21, 28, 37, 48, 62, 80, 104, 130, 160];
/** Pitch is looked for at this rate, in windows of 40 ms, from 70 to 400 hertz. */
const SLOWER = 4;
const SLOW_RATE = SAMPLE_RATE / SLOWER;
const WINDOW = 160;
const SHORTEST = Math.floor(SLOW_RATE / 400);
const LONGEST = Math.ceil(SLOW_RATE / 70);
/** Less periodic sound has no pitch. */
const LEAST_VOICED = 0.6;

/** How a track sounds over time, frame by frame. */
export interface Timbre {
  /** `TIMBRE_BANDS` logarithms of power a frame */
  readonly bands: Float32Array;
  /** hertz; 0 where there is none */
  readonly pitch: Float32Array;
}

/** Follows how a track of 16,000 samples a second sounds. */
export class TimbreMeter {
  private readonly spectrum = new Spectrum(FRAME);
  private readonly bands: number[] = [];
  private readonly pitch: number[] = [];
  private rest = new Float32Array(0);

  push(samples: ArrayLike<number>): void {
    const joined = new Float32Array(this.rest.length + samples.length);
    joined.set(this.rest);
    joined.set(samples, this.rest.length);
    let at = 0;
    for (; at + SLOWER * WINDOW <= joined.length; at += HOP) this.take(joined, at);
    this.rest = joined.slice(at);
  }

  private take(samples: Float32Array, at: number): void {
    const spectrum = this.spectrum.of(samples, at);
    for (let band = 0; band < TIMBRE_BANDS; band++) {
      const [from, to] = [EDGES[band] as number, EDGES[band + 1] as number];
      let power = 0;
      for (let k = from; k < to; k++) power += (spectrum[2 * k] as number) ** 2 + (spectrum[2 * k + 1] as number) ** 2;
      this.bands.push(Math.log(power / (to - from) + 1e-7));
    }
    const slow = new Float32Array(WINDOW);
    for (let k = 0; k < WINDOW; k++)
      for (let j = 0; j < SLOWER; j++) slow[k] = (slow[k] as number) + (samples[at + k * SLOWER + j] as number) / SLOWER;
    const { lag, likeness } = strongestPeriod(slow, SHORTEST, LONGEST);
    this.pitch.push(likeness >= LEAST_VOICED ? SLOW_RATE / lag : 0);
  }

  /** frames so far */
  get frames(): number {
    return this.pitch.length;
  }

  get timbre(): Timbre {
    return { bands: Float32Array.from(this.bands), pitch: Float32Array.from(this.pitch) };
  }
}
