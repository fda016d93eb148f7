import FFT from 'fft.js';
import type { Seconds } from '../time/range.ts';

export const CEPSTRUM_SAMPLE_RATE = 16_000;
const SIZE = 512;
const HOP_SAMPLES = 320;
/** One frame of cepstra each so many seconds. */
export const CEPSTRUM_HOP: Seconds = HOP_SAMPLES / CEPSTRUM_SAMPLE_RATE;
/** Coefficients a frame; the first, loudness, is left out: a second try may be nearer to the microphone. */
export const COEFFICIENTS = 12;

/** Triangular bands on the mel scale, as Davis and Mermelstein (1980) have them. */
const BANDS = 24;
const LOWEST_HERTZ = 100;
const HIGHEST_HERTZ = 7000;
const PRE_EMPHASIS = 0.97;
/** Later coefficients are small and would not count; raised as usual in recognisers (Juang et al. 1987). */
const LIFTER = 22;
const FLOOR = 1e-9;

const melOf = (hertz: number): number => 1127 * Math.log(1 + hertz / 700);
const hertzOf = (mel: number): number => 700 * (Math.exp(mel / 1127) - 1);

const centres = Array.from({ length: BANDS + 2 }, (_, k) => {
  const mel = melOf(LOWEST_HERTZ) + ((melOf(HIGHEST_HERTZ) - melOf(LOWEST_HERTZ)) * k) / (BANDS + 1);
  return (hertzOf(mel) / CEPSTRUM_SAMPLE_RATE) * SIZE;
});

/** For each band the bins it covers, with their weights. */
const filters = Array.from({ length: BANDS }, (_, band) => {
  const [low, middle, high] = [centres[band] as number, centres[band + 1] as number, centres[band + 2] as number];
  const from = Math.ceil(low);
  const weights = Array.from({ length: Math.max(1, Math.floor(high) - from + 1) }, (_, k) => {
    const bin = from + k;
    return Math.max(0, bin <= middle ? (bin - low) / (middle - low) : (high - bin) / (high - middle));
  });
  return { from, weights };
});

const cosines = Array.from({ length: COEFFICIENTS }, (_, k) => {
  const lift = 1 + (LIFTER / 2) * Math.sin((Math.PI * (k + 1)) / LIFTER);
  return Float64Array.from({ length: BANDS }, (_, band) => lift * Math.cos((Math.PI * (k + 1) * (band + 0.5)) / BANDS));
});

/** What a stretch of sound is like, frame by frame, whatever its loudness. */
export interface Cepstra {
  /** `COEFFICIENTS` numbers a frame, each of the same spread over the whole recording */
  readonly values: Float32Array;
  readonly frames: number;
}

/** Mel-frequency cepstra of a stream of samples. */
export class CepstrumMeter {
  private readonly fft = new FFT(SIZE);
  private readonly window = Float64Array.from({ length: SIZE }, (_, k) => 0.54 - 0.46 * Math.cos((2 * Math.PI * k) / SIZE));
  private readonly spectrum = this.fft.createComplexArray();
  private readonly frame = new Float64Array(SIZE);
  private readonly energies = new Float64Array(BANDS);
  private readonly held = new Float64Array(SIZE);
  private filled = SIZE / 2;
  private values = new Float32Array(COEFFICIENTS * 4096);
  private frames = 0;

  /** Takes the next samples, in -1..1. Frames are centred on their moments: the first on the start. */
  push(samples: ArrayLike<number>): void {
    for (let k = 0; k < samples.length; k++) {
      this.held[this.filled++] = samples[k] as number;
      if (this.filled < SIZE) continue;
      this.measure();
      this.held.copyWithin(0, HOP_SAMPLES);
      this.filled = SIZE - HOP_SAMPLES;
    }
  }

  /** All frames, evened out: each coefficient with the mean 0 and the spread 1 over those frames that `counts` names. */
  end(counts: (frame: number) => boolean = () => true): Cepstra {
    const { frames } = this;
    const values = this.values.slice(0, frames * COEFFICIENTS);
    for (let k = 0; k < COEFFICIENTS; k++) {
      let [sum, squares, count] = [0, 0, 0];
      for (let frame = 0; frame < frames; frame++) {
        if (!counts(frame)) continue;
        const value = values[frame * COEFFICIENTS + k] as number;
        sum += value;
        squares += value * value;
        count++;
      }
      const mean = count > 0 ? sum / count : 0;
      const spread = count > 0 ? Math.sqrt(Math.max(FLOOR, squares / count - mean * mean)) : 1;
      for (let at = k; at < values.length; at += COEFFICIENTS) values[at] = ((values[at] as number) - mean) / spread;
    }
    return { values, frames };
  }

  private measure(): void {
    let before = this.held[0] as number;
    for (let k = 0; k < SIZE; k++) {
      const sample = this.held[k] as number;
      this.frame[k] = (sample - PRE_EMPHASIS * before) * (this.window[k] as number);
      before = sample;
    }
    this.fft.realTransform(this.spectrum, this.frame);
    for (let band = 0; band < BANDS; band++) {
      const { from, weights } = filters[band] as (typeof filters)[number];
      let energy = 0;
      for (let k = 0; k < weights.length; k++) {
        const bin = 2 * (from + k);
        energy += (weights[k] as number) * ((this.spectrum[bin] as number) ** 2 + (this.spectrum[bin + 1] as number) ** 2);
      }
      this.energies[band] = Math.log(energy + FLOOR);
    }
    if ((this.frames + 1) * COEFFICIENTS > this.values.length) {
      const larger = new Float32Array(this.values.length * 2);
      larger.set(this.values);
      this.values = larger;
    }
    const at = this.frames * COEFFICIENTS;
    for (let k = 0; k < COEFFICIENTS; k++) {
      let sum = 0;
      const cosine = cosines[k] as Float64Array;
      for (let band = 0; band < BANDS; band++) sum += (cosine[band] as number) * (this.energies[band] as number);
      this.values[at + k] = sum;
    }
    this.frames++;
  }
}
