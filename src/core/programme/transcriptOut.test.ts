import { describe, expect, it } from 'vitest';
import { said } from '../detect/made.test-help.ts';
import { programmeOf } from './programme.ts';
import { masked, wordsLeft } from './transcriptOut.ts';

const words = said('so the damned um clock stopped');

describe('words of the programme', () => {
  it('are those that it keeps, at its own times', () => {
    const programme = programmeOf([
      { start: 0, end: 1.25, rate: 1 },
      { start: 1.75, end: 2, rate: 1, hole: true },
      { start: 2, end: 3, rate: 1 },
    ]);
    expect(wordsLeft(words, programme).map(({ text, start, end }) => [text, start, end])).toEqual([
      ['so', 1, 1.25],
      ['clock', 1.5, 1.75],
      ['stopped', 1.75, 2],
    ]);
  });

  it('are none in what runs faster with its sound', () => {
    const programme = programmeOf([{ start: 0, end: 5, rate: 4, sound: 'along' }]);
    expect(wordsLeft(words, programme)).toEqual([]);
  });

  it('are masked but for their first letter, whatever their case and signs', () => {
    expect(masked(said('Damned! the DAMNED thing, damnedest'), ['damned']).map(({ text }) => text)).toEqual([
      'D*****!',
      'the',
      'D*****',
      'thing,',
      'damnedest',
    ]);
    expect(masked(words, [])).toEqual(words);
  });
});
