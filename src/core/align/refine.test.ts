import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { word } from '../detect/made.test-help.ts';
import { soundUnder, wordsOnSound } from './refine.ts';
import { EXACT_TIMES } from './timing.ts';

const silences = [
  { start: 2, end: 3 },
  { start: 5, end: 5.6 },
];
const off = { exact: false, endsExact: false, error: 0.12 };
const edges = (...words: ReturnType<typeof word>[]) => wordsOnSound(words, off, silences).map(({ start, end }) => [start, end]);

describe('edges of words whose times stray', () => {
  it('are taken back out of a silence', () => {
    expect(edges(word('one', 1.5, 2.3), word('two', 2.8, 3.4))).toEqual([
      [1.5, 2],
      [3, 3.4],
    ]);
  });

  it('go out to the sound that is left, as far as times stray', () => {
    expect(edges(word('one', 1.5, 1.85), word('two', 3.2, 3.4))).toEqual([
      [1.5, 2],
      [3, 3.4],
    ]);
    // Half a second of sound is another word that was not written.
    expect(edges(word('one', 1, 1.5), word('two', 3.5, 3.9))).toEqual([
      [1, 1.5],
      [3.5, 3.9],
    ]);
  });

  it('of a word that reaches over a silence leave it on the side where most of it is', () => {
    expect(edges(word('one', 1.2, 3.1))).toEqual([[1.2, 2]]);
    expect(edges(word('one', 1.95, 3.6))).toEqual([[3, 3.6]]);
  });

  it('inside running speech, and of exact words anywhere, stay', () => {
    const words = [word('one', 3.2, 3.5), word('two', 3.5, 3.9), word('three', 4.2, 4.5)];
    expect(wordsOnSound(words.slice(1), off, silences).map(({ start }) => start)).toEqual([3.5, 4.2]);
    expect(wordsOnSound([word('one', 1.5, 2.3)], EXACT_TIMES, silences)[0]?.end).toBe(2.3);
  });

  it('keep words in order, none shorter than nothing, whatever the times', () => {
    const times = fc.array(fc.tuple(fc.integer({ min: 0, max: 70 }), fc.integer({ min: 1, max: 12 })), { maxLength: 20 });
    fc.assert(
      fc.property(times, (made) => {
        const words = made
          .map(([start, length]) => word('so', start / 10, (start + length) / 10))
          .sort((a, b) => a.start - b.start);
        const moved = wordsOnSound(words, off, silences);
        expect(moved).toHaveLength(words.length);
        for (const [k, { start, end }] of moved.entries()) {
          expect(end).toBeGreaterThan(start - 1e-9);
          expect(start).toBeGreaterThanOrEqual(moved[k - 1]?.start ?? 0);
        }
      }),
    );
  });
});

describe('what the sound says of words', () => {
  it('is that nothing is heard where a recogniser wrote over silence, and nothing else', () => {
    const words = [word('one', 1.5, 2), word('ghost', 2.2, 2.7), word('two', 3, 3.4), word('soft', 4.98, 5.3)];
    expect(soundUnder(words, off, silences).map(({ isUnheard }) => isUnheard)).toEqual([false, true, false, true]);
    expect(soundUnder([word('first', 0, 0.3)], off, [{ start: 0, end: 5 }])[0]?.isUnheard).toBe(true);
  });

  it('is how far each edge may be off: little beside a silence, and where times are exact', () => {
    const words = [word('beside', 1.5, 2), word('inside', 3.3, 3.9), { ...word('shared', 4, 4.4), timing: 'estimated' as const }];
    expect(soundUnder(words, off, silences).map(({ error }) => error)).toEqual([0.02, 0.12, expect.closeTo(0.2)]);
    expect(soundUnder(words, EXACT_TIMES, silences).map(({ error }) => error)).toEqual([0.02, 0.02, expect.closeTo(0.2)]);
  });
});
