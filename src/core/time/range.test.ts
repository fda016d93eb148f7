import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { firstAfter, overlapOf, type Range, subtract, totalLength, union } from './range.ts';

const range = fc
  .tuple(fc.integer({ min: 0, max: 400 }), fc.integer({ min: 0, max: 60 }))
  .map(([start, length]) => ({ start, end: start + length }));
const ranges = fc.array(range, { maxLength: 30 });

/** A slow second opinion: whole seconds as a set. */
const seconds = (list: readonly Range[]) => {
  const set = new Set<number>();
  for (const { start, end } of list) for (let at = start; at < end; at++) set.add(at);
  return set;
};

describe('ranges', () => {
  it('unite to the same moments, in order and apart', () => {
    fc.assert(
      fc.property(ranges, (list) => {
        const united = union(list);
        expect(seconds(united)).toEqual(seconds(list));
        for (let k = 1; k < united.length; k++) expect(united[k]?.start).toBeGreaterThan(united[k - 1]?.end ?? 0);
      }),
    );
  });

  it('leave exactly the moments that are not taken', () => {
    fc.assert(
      fc.property(ranges, ranges, (from, taken) => {
        const left = subtract(from, taken);
        const gone = seconds(taken);
        expect(seconds(left)).toEqual(new Set([...seconds(from)].filter((at) => !gone.has(at))));
        expect(totalLength(left)).toBe(seconds(left).size);
      }),
    );
  });

  it('that only touch share nothing', () => {
    expect(overlapOf({ start: 0, end: 1 }, { start: 1, end: 2 })).toBe(0);
    expect(overlapOf({ start: 0, end: 1.5 }, { start: 1, end: 2 })).toBe(0.5);
  });

  it('are searched by bisection like by hand', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ max: 50 })), fc.integer({ max: 50 }), (keys, at) => {
        const sorted = [...keys].sort((a, b) => a - b);
        const slow = sorted.findIndex((key) => key > at);
        expect(firstAfter(sorted.length, (k) => sorted[k] as number, at)).toBe(slow < 0 ? sorted.length : slow);
      }),
    );
  });
});
