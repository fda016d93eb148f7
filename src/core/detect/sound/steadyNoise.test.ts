import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { LEVEL_RATE } from '../../curves/level.ts';
import { extentsOf } from './levelExtents.ts';
import { trackLevels } from './levelTracking.ts';
import { steadyNoise, within } from './steadyNoise.ts';

/** Numbers of 0..1 that are the same in each run (Park and Miller). */
function numbers(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 48271) % 2147483647;
    return state / 2147483647;
  };
}

/** Ten seconds of a voice that swings by twenty decibels, with a room from 4 s to 6 s. */
function recording(room: (seconds: number) => number, seed = 7): Uint8Array {
  const next = numbers(seed);
  return Uint8Array.from({ length: 10 * LEVEL_RATE }, (_, k) => {
    const at = k / LEVEL_RATE;
    if (at >= 4 && at < 6) return room(at - 4) + Math.round(2 * next() - 1);
    return 190 + 20 * Math.sin(2 * Math.PI * 4 * at) + 10 * (next() - 0.5);
  });
}

const noiseIn = (codes: Uint8Array) => {
  const levels = { codes };
  return [...steadyNoise(levels, extentsOf(levels), trackLevels(levels), () => 0)];
};

describe('noise too even for a voice', () => {
  it('is found where it lies, whether it stays as it is or is turned up', () => {
    for (const room of [() => 110, (at: number) => 100 + 25 * at, (at: number) => 150 - 30 * Math.exp(-2 * at)]) {
      const found = noiseIn(recording(room));
      expect(found.length).toBeGreaterThanOrEqual(2);
      expect(found[0]).toBeGreaterThan(395);
      expect(found[0]).toBeLessThan(415);
      expect(found.at(-1)).toBeGreaterThan(585);
      expect(found.at(-1)).toBeLessThan(605);
    }
  });

  it('is no voice, no noise as loud as one, and nothing that comes and goes', () => {
    for (const room of [() => 185, (at: number) => 120 + 25 * Math.sin(40 * at), (at: number) => (at % 0.3 < 0.15 ? 110 : 140)])
      expect(noiseIn(recording(room))).toEqual([]);
  });

  it('is listed in order, and asked for by stretch', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1000 }),
        fc.integer({ min: 0, max: 990 }),
        fc.integer({ min: 1, max: 300 }),
        (seed, from, length) => {
          const list = Int32Array.from(noiseIn(recording((at) => 100 + 20 * at, seed)));
          for (let k = 1; k < list.length; k++) expect(list[k]).toBeGreaterThan(list[k - 1] as number);
          const inside = new Set<number>();
          within(list, from, from + length, (first, last) => {
            for (let k = first; k < last; k++) inside.add(k);
          });
          for (let k = from; k < from + length; k++) {
            let listed = false;
            for (let j = 0; j < list.length; j += 2) listed ||= k >= (list[j] as number) && k < (list[j + 1] as number);
            expect(inside.has(k)).toBe(listed);
          }
        },
      ),
      { numRuns: 50 },
    );
  });
});
