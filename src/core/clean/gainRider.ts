import type { Seconds } from '../time/range.ts';

/** Multiplies samples, in order, by gains that move evenly from step to step. */
export class GainRider {
  private readonly size: number;
  private at = 0;

  /**
   * @param gains in dB for each step; none leaves samples as they are
   * @param step between one gain and the next
   */
  constructor(
    private readonly gains: Float32Array,
    step: Seconds,
    rate: number,
  ) {
    this.size = Math.round(step * rate);
  }

  /** Changes the samples in place. */
  apply(samples: Float32Array): void {
    const { gains, size } = this;
    if (gains.length > 0)
      for (let k = 0; k < samples.length; k++) {
        // A gain is that of the middle of its step.
        const place = (this.at + k) / size - 0.5;
        const step = Math.max(0, Math.min(gains.length - 1, Math.floor(place)));
        const [low, high] = [gains[step] as number, gains[Math.min(gains.length - 1, step + 1)] as number];
        const gain = low + (high - low) * Math.max(0, Math.min(1, place - step));
        samples[k] = (samples[k] as number) * 10 ** (gain / 20);
      }
    this.at += samples.length;
  }
}
