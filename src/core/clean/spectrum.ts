import FFT from 'fft.js';

/** Spectra of frames of real samples under a window. */
export class Spectrum {
  readonly bins: number;
  readonly window: Float64Array;
  private readonly fft: FFT;
  private readonly frame: number[];
  private readonly spectrum: number[];
  private readonly back: number[];

  /** @param size of a frame, a power of two */
  constructor(readonly size: number) {
    this.fft = new FFT(size);
    this.bins = size / 2 + 1;
    // The root of a Hann window: used before and after, it adds up to one at a quarter of its length or half.
    this.window = Float64Array.from({ length: size }, (_, k) => Math.sin((Math.PI * (k + 0.5)) / size));
    this.frame = new Array(size).fill(0);
    this.spectrum = this.fft.createComplexArray();
    this.back = this.fft.createComplexArray();
  }

  /** Real and imaginary parts in turn; valid until the next call. */
  of(samples: Float32Array, at: number): number[] {
    for (let k = 0; k < this.size; k++) this.frame[k] = (samples[at + k] ?? 0) * (this.window[k] as number);
    this.fft.realTransform(this.spectrum, this.frame);
    return this.spectrum;
  }

  /** Samples of a spectrum, real and imaginary in turn; valid until the next call. */
  inverse(spectrum: number[]): number[] {
    this.fft.completeSpectrum(spectrum);
    this.fft.inverseTransform(this.back, spectrum);
    return this.back;
  }
}
