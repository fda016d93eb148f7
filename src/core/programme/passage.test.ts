import { describe, expect, it } from 'vitest';
import { word } from '../detect/made.test-help.ts';
import { beginningAt, passageOf, placeNear } from './passage.ts';

const WORDS = [
  word('the', 1, 1.2),
  word('wheel', 1.2, 1.6),
  word('turns', 2, 2.4),
  word('slowly', 5, 5.6),
  word('again', 12, 12.4),
  word('bites', 12.4, 12.8),
];
const RECORDINGS = [
  { start: 0, end: 10 },
  { start: 12, end: 20 },
];

describe('a passage that is moved', () => {
  it('takes half of the silence beside its words along, at most 0.3 s, and none of its neighbours', () => {
    expect(passageOf({ start: 1.2, end: 2.4 }, WORDS, RECORDINGS)).toEqual({ start: 1.2, end: 2.7 });
    expect(passageOf({ start: 2, end: 2.4 }, WORDS, RECORDINGS)).toEqual({ start: 1.8, end: 2.7 });
  });

  it('does not reach into another recording, and is what is selected where nothing is said', () => {
    expect(passageOf({ start: 12, end: 12.4 }, WORDS, RECORDINGS)).toEqual({ start: 12, end: 12.4 });
    expect(passageOf({ start: 7, end: 8 }, WORDS, RECORDINGS)).toEqual({ start: 7, end: 8 });
  });
});

describe('a place for a passage', () => {
  it('is between two words, whichever is nearer', () => {
    expect(placeNear(1.3, WORDS, RECORDINGS)).toEqual({ to: 1.2, side: 'before' });
    expect(placeNear(1.55, WORDS, RECORDINGS)).toEqual({ to: 1.8, side: 'after' });
    expect(placeNear(4.9, WORDS, RECORDINGS)).toEqual({ to: 4.7, side: 'before' });
    expect(placeNear(3, WORDS, RECORDINGS)).toEqual({ to: 2.7, side: 'after' });
  });

  it('stays in the recording that is pointed at, also at its end', () => {
    expect(placeNear(9.9, WORDS, RECORDINGS)).toEqual({ to: 5.9, side: 'after' });
    expect(placeNear(10.5, WORDS, RECORDINGS)).toEqual({ to: 10, side: 'after' });
    expect(placeNear(12.1, WORDS, RECORDINGS)).toEqual({ to: 12, side: 'before' });
    expect(placeNear(3, [], RECORDINGS)).toEqual({ to: 3, side: 'before' });
  });
});

describe('a part', () => {
  it('begins before a word: the one that is just begun, or the next', () => {
    expect(beginningAt(1.3, WORDS, RECORDINGS)).toBe(1.2);
    expect(beginningAt(1.5, WORDS, RECORDINGS)).toBe(1.8);
    expect(beginningAt(3, WORDS, RECORDINGS)).toBe(4.7);
  });

  it('begins where it is begun when nothing more is said in that recording', () => {
    expect(beginningAt(8, WORDS, RECORDINGS)).toBe(8);
    expect(beginningAt(12, WORDS, RECORDINGS)).toBe(12);
    expect(beginningAt(3, [], RECORDINGS)).toBe(3);
  });
});
