import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { totalLength } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { spokenBy } from './ofWords.ts';
import { overlapsOf, turnsOf } from './turns.ts';

const word = (speaker: string, start: number, end: number, overlapped?: true): Word => ({
  ...{ text: 'fog', start, end, confidence: 1, speaker, timing: 'measured' },
  ...(overlapped && { overlapped }),
});

describe('turns', () => {
  it('go on over short pauses, and over what somebody else puts in', () => {
    const words = [
      word('Isolde', 0, 1),
      word('Isolde', 1.5, 2),
      word('Tobit', 1.8, 2.1),
      word('Isolde', 2.2, 3),
      word('Isolde', 4, 5),
    ];
    expect(turnsOf(words)).toEqual([
      { speaker: 'Isolde', start: 0, end: 3 },
      { speaker: 'Tobit', start: 1.8, end: 2.1 },
      { speaker: 'Isolde', start: 4, end: 5 },
    ]);
  });

  it('overlap where words do, or where it was heard that somebody else speaks', () => {
    expect(overlapsOf([word('Isolde', 0, 2), word('Tobit', 1, 3), word('Isolde', 3, 4)])).toEqual([{ start: 1, end: 2 }]);
    expect(overlapsOf([word('Isolde', 0, 2), word('Isolde', 1, 3)])).toEqual([]);
    // Less than times are off by.
    expect(overlapsOf([word('Isolde', 0, 2), word('Tobit', 1.9, 3)])).toEqual([]);
    expect(overlapsOf([word('', 0, 1, true), word('', 1.2, 2, true), word('', 5, 6, true)])).toEqual([
      { start: 0, end: 2 },
      { start: 5, end: 6 },
    ]);
  });

  it('hold every word, and no more overlaps than turns do', () => {
    const words = fc
      .array(fc.record({ who: fc.nat(2), start: fc.nat(300), length: fc.nat(20) }), { maxLength: 40 })
      .map((all) =>
        all
          .map(({ who, start, length }) => word(`${who}`, start / 10, (start + length + 1) / 10))
          .sort((a, b) => a.start - b.start),
      );
    fc.assert(
      fc.property(words, (said) => {
        const turns = turnsOf(said);
        for (const { speaker, start, end } of said)
          expect(turns.some((turn) => turn.speaker === speaker && turn.start <= start && turn.end >= end)).toBe(true);
        expect(totalLength(overlapsOf(said))).toBeLessThanOrEqual(totalLength(turns) + 0.5);
      }),
    );
  });
});

describe('words and voices that overlap', () => {
  const voices = {
    voices: [
      { start: 0, end: 10, voice: 0 },
      { start: 2, end: 3, voice: 1 },
      { start: 9, end: 14, voice: 1 },
    ],
    overlaps: [],
  };
  it('go to the voice that is heard longest, or goes on, and are marked where another is heard', () => {
    const words = [word('', 1, 1.5), word('', 2.1, 2.9), word('', 4, 5), word('', 9.2, 9.8), word('', 9.9, 11), word('', 20, 21)];
    expect(spokenBy(words, voices, String).map(({ speaker, overlapped }) => `${speaker}${overlapped ? ' both' : ''}`)).toEqual([
      '0',
      '0 both',
      '0',
      '0 both',
      '1',
      '1',
    ]);
  });
  it('are marked where two are heard, though nobody knows which two', () => {
    const overlaps = [
      { start: 4.6, end: 6 },
      { start: 7.9, end: 8.1 },
    ];
    const words = [word('', 4, 5), word('', 5.4, 5.8), word('', 7, 8)];
    expect(spokenBy(words, { ...voices, overlaps }, String).map(({ overlapped }) => overlapped === true)).toEqual([
      false,
      true,
      false,
    ]);
  });
  it('lose the mark when they are told anew', () => {
    expect(spokenBy([word('x', 4, 5, true)], voices, String)).toEqual([word('0', 4, 5)]);
    expect(spokenBy([word('x', 4, 5, true)], { voices: [], overlaps: [] }, String)).toEqual([word('x', 4, 5, true)]);
  });
});
