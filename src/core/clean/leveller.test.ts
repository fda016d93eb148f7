import { describe, expect, it } from 'vitest';
import { GainRider } from './gainRider.ts';
import { gainsOf, LevelTrace, LINE_STEP } from './leveller.ts';

const RATE = 8000;
const PROFILE = { noise: -60, speech: -20 };

/** A tone that is so loud for so long, in dB and seconds, over a little noise. */
function sound(...spans: readonly (readonly [seconds: number, level: number])[]): Float32Array {
  const samples: number[] = [];
  for (const [seconds, level] of spans)
    for (let k = 0; k < seconds * RATE; k++)
      samples.push(Math.SQRT2 * 10 ** (level / 20) * Math.sin(k * 0.7) + 0.0003 * Math.sin(k * k));
  return Float32Array.from(samples);
}

function evened(samples: Float32Array): Float32Array {
  const trace = new LevelTrace(RATE);
  trace.push(samples);
  const rider = new GainRider(gainsOf(trace.steps, PROFILE), LINE_STEP, RATE);
  const out = samples.slice();
  // In blocks of any size it is the same.
  for (let at = 0; at < out.length; at += 777) rider.apply(out.subarray(at, at + 777));
  return out;
}

const levelOf = (samples: Float32Array, from: number, to: number): number => {
  const part = samples.subarray(from * RATE, to * RATE);
  return 10 * Math.log10(part.reduce((sum, one) => sum + one * one, 0) / part.length);
};

describe('lines made as loud as one another', () => {
  const said = sound([1, -90], [4, -20], [1, -90], [3, -25], [1, -90], [3, -17], [1, -90], [2, -40], [1, -90]);

  it('come to the middle of all, by six decibels at most, and keep what is loud and soft inside them', () => {
    const out = evened(said);
    expect(levelOf(out, 1, 5)).toBeCloseTo(-20, 1);
    expect(levelOf(out, 6, 9)).toBeCloseTo(-20, 1);
    expect(levelOf(out, 10, 13)).toBeCloseTo(-20, 1);
    expect(levelOf(out, 14, 16)).toBeCloseTo(-34, 1);
    const within = sound([1, -90], [1, -20], [1, -26], [1, -20], [1, -90], [3, -20], [1, -90]);
    const kept = evened(within);
    expect(levelOf(kept, 1, 2) - levelOf(kept, 2, 3)).toBeCloseTo(6, 1);
  });

  it('changes its gain in pauses alone, and no faster than the pause is long', () => {
    const out = evened(said);
    for (const [from, to] of [
      [1, 5],
      [6, 9],
      [10, 13],
    ] as const) {
      const first = (out[from * RATE + 100] as number) / (said[from * RATE + 100] as number);
      for (let k = from * RATE + RATE / 20; k < to * RATE - RATE / 20; k += 97)
        if (Math.abs(said[k] as number) > 0.01) expect((out[k] as number) / (said[k] as number)).toBeCloseTo(first, 1);
    }
  });

  it('makes nothing so loud that it clips', () => {
    const sharp = sound([1, -90], [4, -10], [1, -90], [3, -16], [1, -90]);
    sharp[7 * RATE] = 0.7;
    const out = evened(sharp);
    expect(out.reduce((most, one) => Math.max(most, Math.abs(one)), 0)).toBeLessThan(0.9);
    expect(levelOf(out, 6, 9)).toBeGreaterThan(-15);
  });

  it('leaves one line, and silence, as they are', () => {
    const one = sound([1, -90], [4, -20], [1, -90]);
    expect(evened(one)).toEqual(one);
    const silence = new Float32Array(RATE);
    expect(evened(silence)).toEqual(silence);
  });
});
