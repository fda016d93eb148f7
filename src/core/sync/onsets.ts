import { quantile } from '../numbers/quantile.ts';

/** Values a second. */
export const ONSET_RATE = 100;

/** Rises are told against the mean of so many values before. */
const BEFORE = 4;
/** A louder rise says no more, in decibels. */
const MOST = 20;
/** What lies so far over the quietest sound at least counts as sound, in decibels. */
const OVER_QUIET = 6;

/**
 * How much louder sound becomes at each moment, in decibels, `ONSET_RATE` times a second: taken from its upper frequencies, where speech
 * sets in, and blind to how loud a microphone is. Chunks may come in any size.
 */
export class OnsetMeter {
  private readonly levels: number[] = [];
  private readonly frame: number;
  private energy = 0;
  private count = 0;
  private last = 0;

  /** @param sampleRate a multiple of `ONSET_RATE` */
  constructor(sampleRate: number) {
    this.frame = sampleRate / ONSET_RATE;
  }

  push(samples: Float64Array): void {
    for (const sample of samples) {
      // A first difference leaves out rumble and hum.
      this.energy += (sample - this.last) ** 2;
      this.last = sample;
      if (++this.count < this.frame) continue;
      this.levels.push(10 * Math.log10(this.energy / this.frame + 1e-12));
      this.energy = 0;
      this.count = 0;
    }
  }

  /** All that was heard, its mean taken off. */
  onsets(): Float32Array {
    const floor = quantile(this.levels, 0.1) + OVER_QUIET;
    const heard = this.levels.map((level) => Math.max(level, floor));
    const rises = Float32Array.from(heard, (level, k) => {
      const before = heard.slice(Math.max(0, k - BEFORE), k);
      const mean = before.length > 0 ? before.reduce((sum, one) => sum + one, 0) / before.length : level;
      return Math.max(0, Math.min(MOST, level - mean));
    });
    const mean = rises.reduce((sum, one) => sum + one, 0) / Math.max(1, rises.length);
    return rises.map((rise) => rise - mean);
  }
}
