import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { stitch } from './stitch.ts';

const said = (text: string, from = 0, each = 0.4) =>
  text.split(' ').map((word, k) => ({ text: word, start: from + k * each, end: from + k * each + 0.9 * each }));
const texts = (words: readonly { text: string }[]) => words.map(({ text }) => text).join(' ');

describe('parts that overlap', () => {
  it('are joined at a word that both heard, so that none is there twice and none is lost', () => {
    const text = 'the escapement lets one tooth go and the hand moves on by a second';
    const whole = said(text);
    const earlier = whole.filter(({ end }) => end < 3.4);
    const later = whole.filter(({ start }) => start > 1.5).map((word) => ({ ...word, start: word.start + 0.05 }));
    expect(texts(stitch(earlier, later, 1.5, 3.4))).toBe(text);
    // What was cut at an edge was heard as something else.
    const torn = [...earlier.slice(0, -1), { ...(earlier.at(-1) as (typeof whole)[number]), text: 'ha' }];
    const begun = [{ ...(later[0] as (typeof whole)[number]), text: 'booth' }, ...later.slice(1)];
    expect(texts(stitch(torn, begun, 1.5, 3.4))).toBe(text);
  });

  it('are joined in the middle where they heard nothing alike, and a word at the seam stays once', () => {
    const earlier = said('one two three four', 0, 1);
    const later = said('five six seven', 2.9, 1);
    expect(texts(stitch(earlier, later, 2, 4))).toBe('one two three five six seven');
    expect(texts(stitch(said('a b'), said('c d', 2), 1, 1))).toBe('a b c d');
    expect(stitch([], said('a'), 0, 1)).toHaveLength(1);
    expect(stitch(said('a'), [], 0, 1)).toHaveLength(1);
  });

  it('give back the whole whenever both heard the same', () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('oil', 'the', 'wheel', 'again', 'turn'), { minLength: 12, maxLength: 40 }),
        fc.integer({ min: 3, max: 8 }),
        fc.integer({ min: 2, max: 4 }),
        (all, at, wide) => {
          const whole = said(all.map((word, k) => `${word}${k % 3}`).join(' '), 0, 0.7);
          const [from, to] = [0.7 * at - 0.05, 0.7 * (at + wide) - 0.05];
          const earlier = whole.filter(({ end }) => end <= to);
          const later = whole.filter(({ start }) => start >= from);
          expect(texts(stitch(earlier, later, from, to))).toBe(texts(whole));
        },
      ),
    );
  });
});
