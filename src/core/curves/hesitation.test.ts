import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EMBEDDING_SIZE, embeddingToByte, normaliseEmbedding } from './embedding.ts';
import { hesitationCurve, hesitationIn, hesitationScoreOf, packHesitation, unpackHesitation } from './hesitation.ts';

/** Descriptions of frames, from their first two numbers; the others stay the same. */
const embeddingOf = (...frames: readonly (readonly [number, number])[]) => {
  const values = new Int8Array(frames.length * EMBEDDING_SIZE).fill(3);
  for (const [k, [first, second]] of frames.entries()) {
    values[k * EMBEDDING_SIZE] = embeddingToByte(first);
    values[k * EMBEDDING_SIZE + 1] = embeddingToByte(second);
  }
  return { values };
};

describe('embeddings', () => {
  it('are made comparable: of unit length, and the same whatever the microphone adds to all of them', () => {
    const plain = normaliseEmbedding(embeddingOf([1, 5], [2, -5], [9, 5], [-4, -5]));
    const shifted = normaliseEmbedding(embeddingOf([11, 25], [12, 15], [19, 25], [6, 15]));
    for (let frame = 0; frame < 4; frame++) {
      const at = frame * EMBEDDING_SIZE;
      expect(Math.hypot(...plain.subarray(at, at + EMBEDDING_SIZE))).toBeCloseTo(1, 5);
    }
    for (const [k, value] of plain.entries()) expect(shifted[k]).toBeCloseTo(value, 1);
  });

  it('take their measure from the frames that count alone', () => {
    const all = embeddingOf([1, 5], [2, -5], [60, 60]);
    const some = normaliseEmbedding(all, (frame) => frame < 2);
    expect(some[0]).toBeCloseTo(normaliseEmbedding(embeddingOf([1, 5], [2, -5]))[0] as number, 5);
  });

  it('are kept in steps of a half, within a byte', () => {
    expect([-200, -0.3, 0.2, 12.3, 200].map(embeddingToByte)).toEqual([-127, -1, 0, 25, 127]);
  });
});

describe('how much a sound is like hesitating', () => {
  const weights = Array.from({ length: EMBEDDING_SIZE }, (_, k) => (k === 0 ? 6 : 0));
  const unit = (value: number) => {
    const frame = new Float32Array(EMBEDDING_SIZE);
    frame[0] = value;
    return frame;
  };
  const curveOf = (...values: readonly number[]) =>
    hesitationCurve(Float32Array.from(values.flatMap((value) => [...unit(value)])), { intercept: -2, weights });

  it('is a weighted sum, told to a sixteenth', () => {
    const { codes } = curveOf(-1, 0, 0.5, 1);
    expect([...codes].map(hesitationScoreOf)).toEqual([-8, -2, 1, 4]);
  });

  it('of a stretch is that of its middle: its edges sound of their neighbours', () => {
    const curve = curveOf(...Array.from({ length: 50 }, (_, k) => (k >= 20 && k <= 30 ? 1 : -1)));
    expect(hesitationIn(curve, 0.8, 1.2)).toBeGreaterThan(3);
    expect(hesitationIn(curve, 0.2, 0.6)).toBe(-8);
    expect(hesitationIn(curve, 7, 8)).toBe(-8);
  });

  it('travels in fewer bytes than frames, and comes back but for what is nothing like it', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 2000 }), (codes) => {
        const back = unpackHesitation(packHesitation({ codes })).codes;
        expect(back).toHaveLength(codes.length);
        for (const [k, code] of codes.entries()) expect(back[k]).toBe(code < 32 ? 0 : code);
      }),
    );
    expect(packHesitation({ codes: new Uint8Array(5000) }).length).toBeLessThan(50);
  });
});
