import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { areOpposed } from './opposed.ts';

/** Two channels, interleaved: each a share of one sound, and a sound of its own. */
function channels(left: number, right: number, own: number): Int16Array {
  const wave = (hertz: number, k: number) => Math.sin((2 * Math.PI * hertz * k) / 8000);
  return Int16Array.from({ length: 32_000 }, (_, n) => {
    const k = n >> 1;
    const [share, hertz] = n % 2 === 0 ? [left, 317] : [right, 431];
    return Math.round(8000 * (share * wave(220, k) + own * wave(hertz, k)));
  });
}

describe('two channels', () => {
  it('that are opposite are told, though one is softer and each has noise of its own', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.6, max: 1, noNaN: true }), fc.double({ min: 0, max: 0.2, noNaN: true }), (softer, noise) => {
        expect(areOpposed(channels(1, -softer, noise))).toBe(true);
      }),
    );
  });

  it('that have anything else in common, or nothing, are not', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true }), (right, noise) => {
        expect(areOpposed(channels(1, right, noise))).toBe(false);
      }),
    );
    expect(areOpposed(channels(0, 0, 1))).toBe(false);
    expect(areOpposed(new Int16Array(2000))).toBe(false);
    expect(areOpposed(new Int16Array(0))).toBe(false);
  });
});
