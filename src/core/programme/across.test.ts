import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { piecesAcross, piecesBetween } from './across.ts';
import { assemble } from './assemble.ts';
import { programmeOf } from './programme.ts';

const out = (start: number, end: number) => ({ start, end, verdict: 'out', treatment: 'remove' }) as const;
const open = (start: number, end: number) => ({ start, end, verdict: 'open', treatment: 'remove' }) as const;
const stretch = (start: number, end: number) => ({ start, end, rate: 1 });

describe('what is heard across a proposal', () => {
  const cuts = [out(10, 12), out(12.4, 13)];
  const programme = assemble([{ start: 0, end: 30 }], cuts);

  it('is a second of programme on either side, other cuts left out', () => {
    expect(piecesAcross(programme, out(10, 12), 'cut', 1)).toEqual([
      stretch(9, 10),
      stretch(12, 12.4),
      { start: 13, end: expect.closeTo(13.6, 9), rate: 1 },
    ]);
  });

  it('with it in is all of it between the two', () => {
    const [before, inside, ...behind] = piecesAcross(programme, out(10, 12), 'with', 1);
    expect([before, inside]).toEqual([stretch(9, 10), stretch(10, 12)]);
    expect(behind[0]).toEqual(stretch(12, 12.4));
  });

  it('of what is still in sounds as if it were out, or with it', () => {
    expect(piecesAcross(programme, open(20, 21), 'cut', 1)).toEqual([stretch(19, 20), stretch(21, 22)]);
    expect(piecesAcross(programme, open(20, 21), 'with', 1)).toEqual([stretch(19, 20), stretch(20, 21), stretch(21, 22)]);
  });

  it('goes on with what follows in the programme, where passages were moved', () => {
    const moved = programmeOf([stretch(20, 30), stretch(0, 10), stretch(12, 20)]);
    expect(piecesAcross(moved, out(10, 12), 'cut', 1)).toEqual([stretch(9, 10), stretch(12, 13)]);
  });

  it('leaves a hole as a hole', () => {
    const hole = { start: 5, end: 6, verdict: 'out', treatment: 'hole' } as const;
    expect(piecesAcross(assemble([{ start: 0, end: 30 }], [hole]), hole, 'cut', 1)[1]).toEqual({ ...stretch(5, 6), hole: true });
  });
});

describe('pieces between two moments of a programme', () => {
  it('are as long as the stretch that was asked for, and lie inside what the programme keeps', () => {
    const lengths = fc.array(fc.double({ min: 0.1, max: 5, noNaN: true }), { minLength: 1, maxLength: 12 });
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(lengths, share, share, (sizes, a, b) => {
        let at = 0;
        const programme = programmeOf(
          sizes.map((size) => {
            at += 1;
            const piece = stretch(at, at + size);
            at += size;
            return piece;
          }),
        );
        const [from, to] = [Math.min(a, b) * programme.length, Math.max(a, b) * programme.length];
        const pieces = piecesBetween(programme, from, to);
        expect(pieces.reduce((sum, { start, end }) => sum + end - start, 0)).toBeCloseTo(to - from, 6);
        for (const { start, end } of pieces)
          expect(programme.pieces.some((piece) => start >= piece.start - 1e-9 && end <= piece.end + 1e-9)).toBe(true);
      }),
    );
  });
});
