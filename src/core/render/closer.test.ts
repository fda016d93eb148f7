import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { programmeOf } from '../programme/programme.ts';
import { closerPieces } from './closer.ts';

describe('pieces that are shown closer', () => {
  it('take turns with those that are not, and stay as they are beside what is hurried, empty, or hardly cut', () => {
    const piece = (start: number, end: number, more = {}) => ({ start, end, rate: 1, ...more });
    const programme = programmeOf([
      piece(0, 3),
      piece(4, 7),
      piece(7.05, 9),
      piece(10, 18, { rate: 4 }),
      piece(18, 21),
      piece(22, 24, { hole: true }),
      piece(30, 33),
      piece(26, 29),
    ]);
    expect(closerPieces(programme)).toEqual([false, true, true, true, true, true, true, false]);
  });

  it('never change twice in a second', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0.05, max: 3, noNaN: true }), { minLength: 2, maxLength: 60 }), (lengths) => {
        let at = 0;
        const programme = programmeOf(
          lengths.map((length) => {
            at += 0.5 + length;
            return { start: at - length, end: at, rate: 1 };
          }),
        );
        const closer = closerPieces(programme);
        const changes = programme.offsets.filter((_, k) => k > 0 && closer[k] !== closer[k - 1]);
        for (let k = 1; k < changes.length; k++)
          expect((changes[k] as number) - (changes[k - 1] as number)).toBeGreaterThanOrEqual(1 - 1e-9);
      }),
    );
  });
});
