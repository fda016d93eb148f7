import { describe, expect, it } from 'vitest';
import { word } from '../detect/made.test-help.ts';
import { echoesOnClock } from './placedSound.ts';
import { clipToRecording, momentLabel, nextPlace, recordingAt, shortlyBefore } from './recording.ts';
import { replaceWords, stepsOf, wordsOf } from './shift.ts';

const BENCH = { id: 'bench', start: 0, end: 9.4 };
const TOWER = { id: 'tower', start: 11, end: 20 };
const BOTH = [BENCH, TOWER];

describe('the episode clock', () => {
  it('gives each recording a place of whole seconds, a second or more behind the last', () => {
    expect(nextPlace([])).toBe(0);
    expect(nextPlace([BENCH])).toBe(11);
    expect(nextPlace([{ start: 0, end: 10 }])).toBe(11);
    expect(nextPlace(BOTH)).toBe(21);
  });

  it('tells moments in the time of the recording they lie in, with its number where there are several', () => {
    expect(momentLabel(BOTH, 12.34, true)).toBe('2·0:01.3');
    expect(momentLabel(BOTH, 9)).toBe('1·0:09');
    expect(momentLabel([BENCH], 9)).toBe('0:09');
    expect(recordingAt(BOTH, 10)?.id).toBe('bench');
    expect(clipToRecording({ start: 9, end: 12 }, BOTH)).toEqual({ start: 9, end: 9.4 });
    expect(clipToRecording({ start: 9.5, end: 10 }, BOTH)).toBeUndefined();
  });
});

describe('what sounds alike', () => {
  const echo = (left: number, right: number) => ({
    left: { start: left, end: left + 1 },
    right: { start: right, end: right + 1 },
    matched: 1,
    closeness: 0.2,
    worst: 0.3,
    path: [{ left, right, apart: 0.2 }],
  });
  const sound = { duration: 9.4, levels: [] };

  it('stands on the clock, in one recording or in two', () => {
    const placed = [
      { id: 'bench', place: 0, sound: { ...sound, echoes: [echo(1, 4)] } },
      {
        id: 'tower',
        place: 11,
        sound: { ...sound, echoes: [echo(2, 6)] },
        across: [
          { from: 'bench', echoes: [echo(8, 0.5)] },
          { from: 'gone', echoes: [echo(1, 1)] },
        ],
      },
    ];
    expect(echoesOnClock(placed)).toEqual([echo(1, 4), echo(13, 17), echo(8, 11.5)]);
  });

  it('is looked for in recordings that end shortly before', () => {
    const later = { start: 400, end: 500 };
    const before = [
      { start: 0, end: 99 },
      { start: 100, end: 101 },
      { start: 102, end: 398 },
    ];
    expect(shortlyBefore([...before, later], later, 300)).toEqual([before[1], before[2]]);
  });
});

describe('the words of one recording', () => {
  const words = [word('tick', 8.2, 8.5), word('tock', 8.6, 9), word('ding', 12, 12.5), word('dong', 30, 31)];
  const texts = (list: readonly { readonly text: string }[]) => list.map(({ text }) => text);

  it('are put in place of those it has, those of others stay where they are', () => {
    expect(texts(replaceWords(words, TOWER, [word('bell', 0.5, 1)]))).toEqual(['tick', 'tock', 'bell', 'dong']);
    expect(texts(replaceWords(words.slice(0, 2), TOWER, [word('bell', 0.5, 1)]))).toEqual(['tick', 'tock', 'bell']);
    expect(texts(replaceWords(words, BENCH, [word('late', 9.3, 9.9), word('hush', 0.2, 0.4)]))).toEqual(['hush', 'ding', 'dong']);
    expect(replaceWords([], TOWER, [word('bell', 0.5, 1)])[0]?.start).toBe(11.5);
  });

  it('and the corrections about them are read in its own time', () => {
    expect(wordsOf(words, TOWER).map(({ text, start }) => [text, start])).toEqual([['ding', 1]]);
    const step = (start: number) => ({
      id: String(start),
      type: 'correct' as const,
      changes: [{ about: { start, end: start + 1 }, text: 'x' }],
    });
    expect(stepsOf([step(8), step(12)], TOWER)).toEqual([{ ...step(12), changes: [{ about: { start: 1, end: 2 }, text: 'x' }] }]);
    const found = (start: number) => ({
      id: 'found',
      type: 'found' as const,
      correction: String(start),
      about: { start, end: start + 1 },
      places: [{ start: start + 0.25, end: start + 0.5, error: 0.01, isLike: true }],
    });
    expect(stepsOf([found(8), found(12)], TOWER)).toEqual([{ ...found(1), correction: '12' }]);
    const rename = { id: 'all', type: 'speaker' as const, to: 'Isolde' };
    expect(stepsOf([rename, { ...rename, about: { start: 1, end: 2 } }], TOWER)).toEqual([rename]);
  });
});
