import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { withCopies } from './copying.ts';
import { type PictureStretch, segmentsOf } from './picturePlan.ts';

const PAL = { num: 25, den: 1 };
const stretch = (first: number, count: number, more: object = {}): PictureStretch => ({
  source: 0,
  first,
  count,
  rate: 1,
  ...more,
});
const framesOf = (stretches: readonly PictureStretch[]) =>
  stretches.flatMap(({ first, count }) => Array.from({ length: count }, (_, k) => first + k));

describe('what is copied of a picture', () => {
  it('reaches from one entry to another, and all else is as it was', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(400), fc.integer({ min: 1, max: 900 })), { minLength: 1, maxLength: 20 }),
        fc.integer({ min: 5, max: 300 }),
        (spans, group) => {
          let at = 0;
          const stretches = spans.map(([gap, count]) => {
            const one = stretch(at + gap, count);
            at += gap + count;
            return one;
          });
          const entries = Array.from({ length: Math.ceil(at / group) + 1 }, (_, k) => Math.min(k * group, at));
          const parted = withCopies(stretches, [entries], PAL);
          expect(framesOf(parted)).toEqual(framesOf(stretches));
          for (const { first, count, copied } of parted)
            if (copied) expect([entries.includes(first), entries.includes(first + count)]).toEqual([true, true]);
          const segments = segmentsOf({ rate: PAL, length: framesOf(parted).length, stretches: parted });
          expect(segments.flatMap(({ stretches: own }) => framesOf(own))).toEqual(framesOf(stretches));
          // A copy is a segment of its own, whole.
          for (const { stretches: own } of segments) if (own.some(({ copied }) => copied)) expect(own).toHaveLength(1);
        },
      ),
    );
  });

  it('is nothing that looks otherwise than it was recorded', () => {
    const entries = [Array.from({ length: 41 }, (_, k) => 25 * k)];
    const copied = (...stretches: readonly PictureStretch[]) =>
      withCopies(stretches, entries, PAL)
        .filter((one) => one.copied)
        .map(({ first, count }) => [first, count]);
    expect(copied(stretch(10, 200))).toEqual([[25, 175]]);
    expect(
      copied(stretch(10, 200, { closer: 0.1 }), stretch(300, 100, { rate: 2 }), stretch(600, 100, { black: 'over picture' })),
    ).toEqual([]);
    expect(copied(stretch(0, 200), stretch(300, 200, { dissolve: 6 }))).toEqual([
      [0, 175],
      [325, 175],
    ]);
    expect(withCopies([stretch(0, 500)], [undefined], PAL)).toEqual([stretch(0, 500)]);
    // Not worth a process of its own.
    expect(copied(stretch(20, 40))).toEqual([]);
  });
});
