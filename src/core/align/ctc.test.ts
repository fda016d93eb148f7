import { describe, expect, it } from 'vitest';
import { alignTokens, likeliestTokens, type Posteriors } from './ctc.ts';

const CLASSES = 5;

/** What a network says that is sure of a token at each frame, and a little unsure of all others. */
function saying(tokens: readonly number[], sure = 0.9): Posteriors {
  const logProbabilities = new Float32Array(tokens.length * CLASSES).fill(Math.log((1 - sure) / (CLASSES - 1)));
  for (const [frame, token] of tokens.entries()) logProbabilities[frame * CLASSES + token] = Math.log(sure);
  return { logProbabilities, frames: tokens.length, classes: CLASSES };
}

/** Numbers that follow from a seed (Park and Miller 1988). */
function drawn(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 48_271) % 2_147_483_647;
    return state / 2_147_483_647;
  };
}

describe('tokens under frames', () => {
  it('are where the network says them, repeats parted by a blank', () => {
    const posteriors = saying([0, 0, 1, 1, 0, 1, 2, 0, 0, 3]);
    expect(likeliestTokens(posteriors, 0)).toEqual([1, 1, 2, 3]);
    expect(alignTokens(posteriors, [1, 1, 2, 3], 0)).toEqual([
      { from: 2, to: 4 },
      { from: 5, to: 6 },
      { from: 6, to: 7 },
      { from: 9, to: 10 },
    ]);
  });

  it('are found though the network takes one of them for another', () => {
    // The text has a 2 where a 4 is heard.
    const posteriors = saying([0, 1, 0, 0, 4, 4, 0, 3, 0]);
    expect(alignTokens(posteriors, [1, 2, 3], 0)).toMatchObject([{ from: 1 }, { from: expect.any(Number) }, { from: 7 }]);
    const [, between] = alignTokens(posteriors, [1, 2, 3], 0) ?? [];
    expect(between?.from).toBeGreaterThan(1);
    expect(between?.to).toBeLessThanOrEqual(7);
  });

  it('have no place where there are fewer frames than they need', () => {
    expect(alignTokens(saying([1, 2]), [1, 2, 3], 0)).toBeUndefined();
    // Two that are the same need a blank between them.
    expect(alignTokens(saying([1, 1]), [1, 1], 0)).toBeUndefined();
    expect(alignTokens(saying([0, 0]), [], 0)).toEqual([]);
  });

  it('read like the path they were drawn from, whatever it is', () => {
    for (let seed = 1; seed <= 200; seed++) {
      const random = drawn(seed);
      const path = Array.from({ length: 3 + Math.floor(40 * random()) }, () => Math.max(0, Math.floor(random() * 7) - 2));
      const posteriors = saying(path, 0.5 + 0.4 * random());
      const tokens = likeliestTokens(posteriors, 0);
      const places = alignTokens(posteriors, tokens, 0) ?? [];
      expect(places).toHaveLength(tokens.length);
      for (const [k, { from, to }] of places.entries()) {
        expect(path.slice(from, to)).toEqual(path.slice(from, to).map(() => tokens[k]));
        expect(from).toBeGreaterThanOrEqual(places[k - 1]?.to ?? 0);
      }
    }
  });
});
