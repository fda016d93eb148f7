import { describe, expect, it } from 'vitest';
import { word } from '../detect/made.test-help.ts';
import { openRuns, withPlaces } from './openRuns.ts';

const words = [
  word('the', 1, 1.2),
  word('lantern', 1.2, 1.6, 'estimated'),
  word('room', 1.6, 2, 'estimated'),
  word('is', 2, 2.1),
  word('dark', 5, 5.4, 'estimated'),
];

describe('runs of words without a place', () => {
  it('come with the words beside them and the sound of all of these', () => {
    expect(openRuns(words, 6, 45)).toEqual([
      { from: 0, to: 4, open: [1, 2], sound: { start: 0.85, end: 2.25 } },
      { from: 3, to: 5, open: [4], sound: { start: 1.85, end: 6 } },
    ]);
  });

  it('are left out where more sound would have to be gone through than can be', () => {
    expect(openRuns(words, 60, 4)).toMatchObject([{ open: [1, 2] }]);
  });

  it('take the places that were found, and the words beside them keep theirs', () => {
    const [run] = openRuns(words, 6, 45) as [ReturnType<typeof openRuns>[number]];
    const places = [0.9, 1.3, 1.7, 2.05].map((start) => ({ start, end: start + 0.1 }));
    const placed = withPlaces(words, run, places, 0.06);
    expect(placed[0]).toEqual(words[0]);
    expect(placed[1]).toMatchObject({ text: 'lantern', start: 1.3, end: 1.4, timing: 'measured', error: 0.06 });
    expect(placed[2]).toMatchObject({ start: 1.7, end: 1.8 });
    expect(placed[3]).toEqual(words[3]);
  });
});
