import { Biquad } from './biquad.ts';
import type { Cleaning, NoiseStep } from './cleaning.ts';
import { Denoiser } from './denoiser.ts';
import type { NoiseProfile } from './noiseProfile.ts';

/** Voices have nothing below this, in hertz. */
const RUMBLE = 75;
/** How narrow hum is taken out: its bandwidth in hertz. */
const HUM_WIDTH = 1;
/** dB that noise is lowered by at most. */
const MOST: Readonly<Record<Exclude<NoiseStep, 'off'>, number>> = { some: 12, much: 24 };
/** Noise below this, in dB under full scale, is none. */
const NO_NOISE = -78;
/** Where what is quiet is nearly as loud as what is loud, it was no noise that was measured, but speech without a pause. */
const LEAST_APART = 6;
const CAUTIOUS = 4;

/** Cleans one channel of a track. What comes out is at the place where it went in. */
export class Cleaner {
  private readonly filters: readonly Biquad[];
  private readonly denoiser: Denoiser | undefined;
  private toDrop: number;

  constructor({ rumble, hum, noise }: Pick<Cleaning, 'rumble' | 'hum' | 'noise'>, profile: NoiseProfile, rate: number) {
    this.filters = [
      ...(rumble ? [Biquad.highPass(RUMBLE, rate)] : []),
      ...(hum ? profile.hum.map((line) => Biquad.notch(line, rate, line / HUM_WIDTH)) : []),
    ];
    const isNoisy = profile.power.length > 0 && profile.noise > NO_NOISE;
    const most = noise === 'off' ? 0 : profile.speech - profile.noise < LEAST_APART ? CAUTIOUS : MOST[noise];
    this.denoiser = isNoisy && most > 0 ? new Denoiser(profile, most) : undefined;
    this.toDrop = this.denoiser ? this.denoiser.delay - this.denoiser.delay / 4 : 0;
  }

  /** Samples in order; those that come out are in the same order, some later. */
  push(samples: Float32Array): Float32Array {
    const filtered = samples.slice();
    for (const filter of this.filters) filter.apply(filtered);
    if (!this.denoiser) return filtered;
    const out = this.denoiser.push(filtered);
    const dropped = Math.min(this.toDrop, out.length);
    this.toDrop -= dropped;
    return out.subarray(dropped);
  }

  /** The samples that are still on their way. */
  end(): Float32Array {
    return this.denoiser ? this.push(new Float32Array(this.denoiser.delay)) : new Float32Array(0);
  }
}
