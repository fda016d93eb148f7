import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asRecorded, programmeOf, toSource } from '@/core/programme/programme.ts';
import { rowCount, rowParts, timeInRow } from './rows.ts';

const programme = programmeOf([
  { start: 0, end: 3, rate: 1 },
  { start: 5, end: 9, rate: 1 },
  { start: 20, end: 24, rate: 1 },
]);

describe('rows', () => {
  it('of the whole recording are stretches of equal length, the last one shorter', () => {
    const whole = asRecorded([{ start: 0, end: 25 }]);
    expect(rowCount(whole, 10)).toBe(3);
    expect(rowParts(whole, 1, 10)).toEqual([{ start: 10, end: 20, x: 0, seam: false }]);
    expect(rowParts(whole, 2, 10)).toEqual([{ start: 20, end: 25, x: 0, seam: false }]);
    expect(rowParts(whole, 3, 10)).toEqual([]);
  });

  it('of a programme close up what is out and mark each seam', () => {
    expect(rowCount(programme, 10)).toBe(2);
    expect(rowParts(programme, 0, 10)).toEqual([
      { start: 0, end: 3, x: 0, seam: false, after: 'nothing' },
      { start: 5, end: 9, x: 3, seam: true, after: 0 },
      { start: 20, end: 23, x: 7, seam: true, after: 5 },
    ]);
    expect(rowParts(programme, 1, 10)).toEqual([{ start: 23, end: 24, x: 0, seam: false }]);
  });

  it('put a seam at the start of a row when it falls there', () => {
    expect(rowParts(programme, 1, 7)[0]).toEqual({ start: 20, end: 24, x: 0, seam: true, after: 5 });
  });

  it('know the moment under the pointer', () => {
    const parts = rowParts(programme, 0, 10);
    expect(timeInRow(parts, 2)).toBe(2);
    expect(timeInRow(parts, 4)).toBe(6);
    expect(timeInRow(parts, 9.5)).toBe(22.5);
    expect(timeInRow([], 3)).toBe(0);
    fc.assert(
      fc.property(fc.double({ min: 0, max: 10.99, noNaN: true }), fc.constantFrom(2, 4, 6), (at, rowSeconds) => {
        const row = Math.floor(at / rowSeconds);
        expect(timeInRow(rowParts(programme, row, rowSeconds), at - row * rowSeconds)).toBeCloseTo(toSource(programme, at), 6);
      }),
    );
  });

  it('exist, one at least, even for an empty programme', () => {
    expect(rowCount(programmeOf([]), 10)).toBe(1);
    expect(rowParts(programmeOf([]), 0, 10)).toEqual([]);
  });
});
