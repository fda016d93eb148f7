import { describe, expect, it } from 'vitest';
import { Cleaner } from './cleaner.ts';
import { USUAL_CLEANING } from './cleaning.ts';
import { NoiseMeter } from './noiseProfile.ts';

const RATE = 48_000;
const SECONDS = 8;

/** Numbers that look random and are the same each time (Park and Miller). */
function* randomly(seed: number): Generator<number> {
  for (let state = seed; ; ) {
    state = (state * 48_271) % 2_147_483_647;
    yield state / 2_147_483_647 - 0.5;
  }
}

/** Something like speech: a voice of changing pitch with formants, in phrases with pauses between them. */
function spoken(): Float32Array {
  const out = new Float32Array(SECONDS * RATE);
  let phase = 0;
  for (let k = 0; k < out.length; k++) {
    const t = k / RATE;
    phase += (2 * Math.PI * (130 + 30 * Math.sin(3 * t))) / RATE;
    const phrase = Math.max(0, Math.sin(2 * Math.PI * 0.4 * t - 0.6)) ** 0.5;
    let sum = 0;
    for (let n = 1; n <= 20; n++) sum += Math.sin(n * phase) / (1 + ((n * 130 - 600 - 300 * Math.sin(5 * t)) / 400) ** 2);
    out[k] = 0.06 * sum * phrase * (0.6 + 0.4 * Math.sin(2 * Math.PI * 4 * t));
  }
  return out;
}

const noise = (level: number): Float32Array => {
  const random = randomly(7);
  return Float32Array.from({ length: SECONDS * RATE }, () => level * Math.sqrt(12) * (random.next().value as number));
};
const plus = (...all: readonly Float32Array[]): Float32Array =>
  (all[0] as Float32Array).map((_, k) => all.reduce((sum, one) => sum + (one[k] as number), 0));

function cleaned(samples: Float32Array, choices = {}): Float32Array {
  const meter = new NoiseMeter(RATE);
  const blocks = Array.from({ length: Math.ceil(samples.length / 5000) }, (_, k) => samples.subarray(5000 * k, 5000 * (k + 1)));
  for (const block of blocks) meter.push(block);
  const cleaner = new Cleaner({ ...USUAL_CLEANING, ...choices }, meter.profile(), RATE);
  const parts = [...blocks.map((block) => cleaner.push(block)), cleaner.end()];
  const out = new Float32Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out.subarray(0, samples.length);
}

/** Signal to distortion in dB, whatever the gain (Le Roux et al. 2019). */
function distortion(clean: Float32Array, found: Float32Array): number {
  let [cross, power, rest] = [0, 0, 0];
  for (let k = 0; k < clean.length; k++) {
    cross += (clean[k] as number) * (found[k] as number);
    power += (clean[k] as number) ** 2;
  }
  const gain = cross / power;
  for (let k = 0; k < clean.length; k++) rest += ((found[k] as number) - gain * (clean[k] as number)) ** 2;
  return 10 * Math.log10((gain * gain * power) / rest);
}

/** Level in a pause, in dB. */
const quiet = (samples: Float32Array): number => {
  const stretch = samples.subarray(2.2 * RATE, 2.7 * RATE);
  return 10 * Math.log10(stretch.reduce((sum, one) => sum + one * one, 0) / stretch.length);
};

describe('cleaning', () => {
  const clean = spoken();
  // A high-pass turns phases: what is compared went through it too.
  const reference = cleaned(clean, { hum: false, noise: 'off' });

  it.each([0.003, 0.01])('lowers noise at a level of %f by some dB, and more of it where more is asked for', (level) => {
    const noisy = plus(clean, noise(level));
    const before = distortion(reference, cleaned(noisy, { noise: 'off' }));
    const some = distortion(reference, cleaned(noisy));
    expect(some - before).toBeGreaterThan(4);
    expect(quiet(noisy) - quiet(cleaned(noisy))).toBeGreaterThan(9);
    expect(quiet(noisy) - quiet(cleaned(noisy, { noise: 'much' }))).toBeGreaterThan(17);
  });

  it('leaves clean speech unharmed', () => {
    expect(distortion(reference, cleaned(clean, { noise: 'much' }))).toBeGreaterThan(40);
    expect(distortion(reference, cleaned(plus(clean, noise(0.0003))))).toBeGreaterThan(25);
  });

  it.each([50, 60, 49.9])('finds hum of %f hertz and its harmonics, and takes it out', (mains) => {
    const hum = Float32Array.from({ length: SECONDS * RATE }, (_, k) =>
      [1, 2, 3, 5].reduce((sum, n) => sum + (0.01 / n) * Math.sin((2 * Math.PI * mains * n * k) / RATE), 0),
    );
    const noisy = plus(clean, hum, noise(0.0005));
    const meter = new NoiseMeter(RATE);
    meter.push(noisy);
    const { hum: found } = meter.profile();
    expect(found.length).toBeGreaterThanOrEqual(3);
    expect(Math.abs((found[0] as number) - mains)).toBeLessThan(0.6);
    expect(quiet(noisy) - quiet(cleaned(noisy, { noise: 'off' }))).toBeGreaterThan(12);
    expect(distortion(reference, cleaned(noisy, { noise: 'off' }))).toBeGreaterThan(distortion(reference, noisy));
  });

  it('finds no hum where there is none, and leaves digital silence as it is', () => {
    const meter = new NoiseMeter(RATE);
    meter.push(plus(clean, noise(0.002)));
    expect(meter.profile().hum).toEqual([]);
    const silent = new Float32Array(SECONDS * RATE);
    expect(cleaned(silent).every((one) => one === 0)).toBe(true);
  });

  it('does not depend on the blocks it is asked for in, and keeps every sample in its place', () => {
    const noisy = plus(clean, noise(0.003));
    const meter = new NoiseMeter(RATE);
    meter.push(noisy);
    const whole = new Cleaner(USUAL_CLEANING, meter.profile(), RATE);
    const first = whole.push(noisy);
    const second = cleaned(noisy);
    let most = 0;
    for (let k = 0; k < first.length; k++) most = Math.max(most, Math.abs((first[k] as number) - (second[k] as number)));
    expect(most).toBeLessThan(1e-5);
  });
});
