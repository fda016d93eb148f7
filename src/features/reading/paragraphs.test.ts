import { expect, it } from 'vitest';
import type { Word } from '@/core/transcript/word.ts';
import { paragraphsAsHeard } from './paragraphs.ts';

const RECORDINGS = [
  { id: 'bench', start: 0, end: 10 },
  { id: 'tower', start: 12, end: 20 },
];
const WORDS = ['It', 'ticks.', 'Then', 'it', 'stops.', 'Up', 'here', 'it', 'rings.'].map((text, k): Word => {
  const start = k < 5 ? 1 + k : 8 + k;
  return { text, start, end: start + 0.5, confidence: 1, speaker: 'Tobit', timing: 'measured' };
});
const told = (layout: Parameters<typeof paragraphsAsHeard>[2]) =>
  paragraphsAsHeard(WORDS, RECORDINGS, layout).map(({ words, first, begins, isMoved }) => [
    words.map(({ text }) => text).join(' '),
    first,
    begins,
    isMoved,
  ]);

it('words alone stand in the order in which they are heard, with the recordings that begin and what was moved', () => {
  expect(told({ removed: [], moves: [] })).toEqual([
    ['It ticks. Then it stops.', 0, 0, false],
    ['Up here it rings.', 5, 12, false],
  ]);
  const move = { id: 'm', about: { start: 12, end: 20 }, to: 2.75, side: 'before' } as const;
  expect(told({ removed: [], moves: [move] })).toEqual([
    ['It ticks.', 0, 0, false],
    ['Up here it rings.', 5, 12, true],
    ['Then it stops.', 2, 2.75, false],
  ]);
  expect(told({ removed: ['bench'], moves: [move] })).toEqual([['Up here it rings.', 5, 12, true]]);
});
