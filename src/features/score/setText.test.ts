import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type SetText, type SpokenWord, setText } from './setText.ts';

const LETTER = 7;
const countWidth = (count: number) => 7 * `+${count}`.length;

/** Words said evenly: each lasts so many seconds, with silences where the text has a bar. */
function said(text: string, pixelsPerSecond: number, seconds = 0.3, silence = 0.6): SpokenWord[] {
  let at = 0.2;
  return text.split(' ').flatMap((token) => {
    if (token === '|') {
      at += silence;
      return [];
    }
    const from = at * pixelsPerSecond;
    at += seconds;
    return [{ text: token, from, to: at * pixelsPerSecond, width: LETTER * token.length }];
  });
}

const set = (words: readonly SpokenWord[], width: number, pixelsPerSecond: number) =>
  setText(words, width, 0.25 * pixelsPerSecond, countWidth);

/** Text as somebody reads it: phrase after phrase, in each the first line and then the second. */
function readOff(words: readonly SpokenWord[], { words: placed }: SetText): string {
  const blocks: SetText['words'][number][][] = [];
  for (const one of placed) {
    const block = blocks.at(-1);
    const before = words[one.at - 1];
    if (block && before && (words[one.at] as SpokenWord).from - before.to < 20) block.push(one);
    else blocks.push([one]);
  }
  return blocks
    .flatMap((block) => [...block].sort((a, b) => a.line - b.line || a.x - b.x))
    .map(({ at }) => words[at]?.text)
    .join(' ');
}

describe('the text of a row', () => {
  it('stands under its moments where there is room', () => {
    const words = said('Good evening from the lamp room', 140);
    const { words: placed, leftOut } = set(words, 900, 140);
    expect(leftOut).toEqual([]);
    for (const { at, x, line, squeeze } of placed) {
      expect([line, squeeze]).toEqual([0, 1]);
      expect(Math.abs(x - (words[at]?.from ?? 0))).toBeLessThanOrEqual(26);
    }
  });

  it('of a phrase without room is set narrower, then under itself, and begins at its onset', () => {
    const words = said('Good evening from the lamp room, I am Marn Isolde | Tobit', 40, 0.3, 1.2);
    const { words: placed } = set(words, 800, 40);
    expect(placed[0]?.x).toBeCloseTo(words[0]?.from ?? 0, 6);
    expect(new Set(placed.map(({ line }) => line))).toEqual(new Set([0, 1]));
    expect(readOff(words, { words: placed, leftOut: [], folded: [] })).toBe(
      'Good evening from the lamp room, I am Marn Isolde Tobit',
    );
  });

  it('that has no room at all gives way, with its first words and how many follow', () => {
    const words = said('Good evening from the lamp room of the tower', 12);
    const { words: placed, leftOut } = set(words, 70, 12);
    expect(words[placed[0]?.at ?? -1]?.text).toBe('Good');
    expect(placed.length + leftOut.reduce((sum, { count }) => sum + count, 0)).toBe(words.length);
    expect(leftOut[0]?.count).toBeGreaterThan(0);
  });

  it('at the end of a row is whole: no letter is cut off', () => {
    const words: SpokenWord[] = [{ text: 'thumb', from: 395, to: 400, width: 40 }];
    const [only] = set(words, 400, 100).words;
    expect((only?.x ?? 0) + 40 * (only?.squeeze ?? 1)).toBeLessThanOrEqual(400);
  });

  it('keeps its order, overlaps nothing, stays in the row and leaves no word untold, whatever is said', () => {
    const word = fc.record({
      letters: fc.integer({ min: 1, max: 12 }),
      seconds: fc.double({ min: 0.05, max: 0.8, noNaN: true }),
      after: fc.oneof(fc.constant(0), fc.double({ min: 0, max: 3, noNaN: true })),
    });
    fc.assert(
      fc.property(
        fc.array(word, { minLength: 1, maxLength: 40 }),
        fc.integer({ min: 200, max: 1500 }),
        fc.constantFrom(6, 8, 20, 60),
        (spoken, width, rowSeconds) => {
          const scale = width / rowSeconds;
          let at = 0;
          const words: SpokenWord[] = [];
          for (const { letters, seconds, after } of spoken) {
            if ((at + seconds) * scale > width) break;
            words.push({ text: 'x'.repeat(letters), from: at * scale, to: (at + seconds) * scale, width: letters * LETTER });
            at += seconds + after;
          }
          const { words: placed, leftOut } = set(words, width, scale);
          // In order, each line from left to right, nothing on top of anything else.
          for (const line of [0, 1] as const) {
            const own = placed.filter((one) => one.line === line);
            for (const [k, one] of own.entries()) {
              const right = one.x + (words[one.at]?.width ?? 0) * one.squeeze;
              expect(one.x).toBeGreaterThanOrEqual(-1e-6);
              expect(right).toBeLessThanOrEqual(width + 1e-6);
              expect(own[k + 1]?.x ?? Number.POSITIVE_INFINITY).toBeGreaterThan(right);
            }
          }
          expect(placed.map((one) => one.at)).toEqual(placed.map((one) => one.at).sort((a, b) => a - b));
          const told = placed.length + leftOut.reduce((sum, { count }) => sum + count, 0);
          // Only where not even a count fits is anything left untold.
          if (width / rowSeconds > 8)
            expect(words.length - told).toBeLessThanOrEqual(words.length > 0 && told === 0 ? words.length : 0);
        },
      ),
    );
  });
});
