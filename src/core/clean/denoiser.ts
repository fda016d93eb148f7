import { NOISE_FRAME, type NoiseProfile } from './noiseProfile.ts';
import { Spectrum } from './spectrum.ts';

const HOP = NOISE_FRAME / 4;
/** How much of what was found in the frame before is believed. */
const MEMORY = 0.96;
/** The quietest frames hold a little less noise than others do. */
const MORE_ELSEWHERE = 1.4;
/** Quarter steps of a window that is used before and after add up to so much. */
const OVERLAP_SUM = 2;

/**
 * Lowers steady noise, whose spectrum is known, in each band as far as it stands over what is said there: a Wiener filter with the
 * decision-directed estimate of the ratio of speech to noise (Ephraim and Malah 1984; Scalart and Filho 1996). What goes in comes out at
 * the same place: `delay` samples come later, and are made up for by who reads.
 */
export class Denoiser {
  /** samples that come out later than they went in */
  readonly delay = NOISE_FRAME;
  private readonly spectrum = new Spectrum(NOISE_FRAME);
  private readonly noise: Float64Array;
  private readonly least: number;
  /** power of speech in each bin of the frame before */
  private readonly before: Float64Array;
  private readonly sum = new Float64Array(NOISE_FRAME);
  private held = new Float32Array(NOISE_FRAME - HOP);

  /** @param most dB that noise is lowered by at most */
  constructor({ power }: NoiseProfile, most: number) {
    this.noise = power.map((one) => one * MORE_ELSEWHERE + 1e-12);
    this.least = 10 ** (-most / 20);
    this.before = new Float64Array(this.spectrum.bins);
  }

  /** @returns as many samples as came in, to within a hop */
  push(samples: Float32Array): Float32Array {
    const joined = new Float32Array(this.held.length + samples.length);
    joined.set(this.held);
    joined.set(samples, this.held.length);
    const count = Math.max(0, Math.floor((joined.length - NOISE_FRAME) / HOP) + 1);
    const out = new Float32Array(count * HOP);
    for (let k = 0; k < count; k++) this.frame(joined, k * HOP, out);
    this.held = joined.slice(count * HOP);
    return out;
  }

  private frame(samples: Float32Array, at: number, out: Float32Array): void {
    const spectrum = this.spectrum.of(samples, at);
    for (let k = 0; k < this.spectrum.bins; k++) {
      const power = (spectrum[2 * k] as number) ** 2 + (spectrum[2 * k + 1] as number) ** 2;
      const noise = this.noise[k] as number;
      const ratio = (MEMORY * (this.before[k] as number)) / noise + (1 - MEMORY) * Math.max(0, power / noise - 1);
      const gain = Math.max(this.least, ratio / (1 + ratio));
      this.before[k] = gain * gain * power;
      spectrum[2 * k] = (spectrum[2 * k] as number) * gain;
      spectrum[2 * k + 1] = (spectrum[2 * k + 1] as number) * gain;
    }
    const back = this.spectrum.inverse(spectrum);
    const { window } = this.spectrum;
    for (let k = 0; k < NOISE_FRAME; k++)
      this.sum[k] = (this.sum[k] as number) + ((back[2 * k] as number) * (window[k] as number)) / OVERLAP_SUM;
    for (let k = 0; k < HOP; k++) out[at + k] = this.sum[k] as number;
    this.sum.copyWithin(0, HOP);
    this.sum.fill(0, NOISE_FRAME - HOP);
  }
}
