import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { codeQuantile, quantile } from './quantile.ts';

const share = fc.double({ min: 0, max: 1, noNaN: true });

describe('quantiles', () => {
  it('are of numbers by their size, not by how they are written', () => {
    expect(quantile([10, 9, 100, -2], 0)).toBe(-2);
    expect(quantile([10, 9, 100, -2], 0.5)).toBe(10);
    expect(quantile([10, 9, 100, -2], 1)).toBe(100);
    expect(quantile([], 0.5)).toBe(0);
  });

  it('of codes come out the same by counting as by sorting', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), share, (codes, q) => {
        expect(codeQuantile(codes, q)).toBe(quantile([...codes], q));
      }),
    );
  });
});
