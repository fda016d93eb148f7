import { describe, expect, it } from 'vitest';
import { word } from '../detect/made.test-help.ts';
import { halvesOf, type OpenRun, openRuns, withPlaces } from './openRuns.ts';

const words = [
  word('the', 1, 1.2),
  word('lantern', 1.2, 1.6, 'estimated'),
  word('room', 1.6, 2, 'estimated'),
  word('is', 2, 2.1),
  word('dark', 5, 5.4, 'estimated'),
];
const wordsOf = (run: OpenRun | undefined, of = words) => run?.places.map((k) => of[k]?.text).join(' ');
/** Words of a quarter of a second, with a pause of half a second before some. */
const line = (count: number, isAfterPause: (k: number) => boolean) => {
  let at = 0;
  return Array.from({ length: count }, (_, k) => {
    at += isAfterPause(k) ? 0.75 : 0.25;
    return word(`w${k}`, at, at + 0.25, 'estimated');
  });
};

describe('runs of words without a place', () => {
  it('come with known words beside them and the sound of all of these', () => {
    const [first, second] = openRuns(words, 6, 45) as [OpenRun, OpenRun];
    expect(first).toEqual({ places: [0, 1, 2, 3], open: [1, 2], sound: { start: 0.85, end: 2.25 } });
    expect(second).toMatchObject({ places: [3, 4], open: [4] });
    expect(second.sound.start).toBeCloseTo(1.85);
    expect(second.sound.end).toBeCloseTo(5.7);
  });

  it('are parted at pauses where they are long, each word in one of them', () => {
    const long = line(100, (k) => k % 7 === 0);
    const runs = openRuns(long, 60, 10);
    expect(runs.flatMap(({ open }) => open)).toEqual([...long.keys()]);
    expect(runs.length).toBeGreaterThan(2);
    for (const { open, places, sound } of runs) {
      expect(sound.end - sound.start).toBeLessThanOrEqual(11);
      expect((open[0] as number) % 7).toBe(0);
      // A pause says that nothing of the next line is heard.
      expect(places).toEqual(open);
    }
  });

  it('end at a long pause, whose noises are none of their words', () => {
    const two = [
      ...line(3, () => false),
      ...line(3, () => false).map((one) => ({ ...one, start: one.start + 3, end: one.end + 3 })),
    ];
    expect(openRuns(two, 60, 10).map((run) => run.open.length)).toEqual([3, 3]);
  });

  it('come with the next word where no pause parts them', () => {
    const runs = openRuns(
      line(100, () => false),
      60,
      10,
    );
    for (const { open, places } of runs.slice(1, -1)) expect(places).toHaveLength(open.length + 2);
  });

  it('leave out notes, words that are lost in far more sound, and more words than anybody could say', () => {
    const noted = [word('[applause]', 1, 2, 'estimated'), word('thanks', 2, 2.4, 'estimated')];
    expect(wordsOf(openRuns(noted, 6, 45)[0], noted)).toBe('thanks');
    expect(openRuns([word('a', 0, 1), word('lost', 1, 90, 'estimated'), word('word', 90, 91)], 100, 20)).toEqual([]);
    const crowd = Array.from({ length: 5000 }, (_, k) => word('so', 1 + k / 5000, 1 + (k + 1) / 5000, 'estimated'));
    expect(openRuns(crowd, 6, 45)).toEqual([]);
    expect(openRuns([word('behind', 7, 8, 'estimated')], 6, 45)).toEqual([]);
  });

  it('are halved where the pause between is longest', () => {
    const eight = line(8, (k) => k === 3);
    const [run] = openRuns(eight, 10, 45) as [OpenRun];
    const [left, right] = halvesOf(eight, run, 10) as [OpenRun, OpenRun];
    expect([wordsOf(left, eight), wordsOf(right, eight)]).toEqual(['w0 w1 w2', 'w3 w4 w5 w6 w7']);
    expect(halvesOf(eight, { ...run, open: [3] }, 10)).toEqual([]);
  });
});

describe('words with the places that were found', () => {
  const run = openRuns(words, 6, 45)[0] as OpenRun;
  const at = (start: number, isLike = true) => ({ start, end: start + 0.1, error: 0.06, isLike });

  it('take them, and those beside keep theirs', () => {
    const placed = withPlaces(words, [{ run, placing: [0.9, 1.3, 1.7, 2.05].map((start) => at(start)) }]);
    expect(placed[0]).toEqual(words[0]);
    expect(placed[1]).toMatchObject({ text: 'lantern', start: 1.3, end: 1.4, timing: 'measured', error: 0.06, confidence: 1 });
    expect(placed[2]).toMatchObject({ start: 1.7, end: 1.8 });
    expect(placed[3]).toEqual(words[3]);
  });

  it('are still guessed where the sound is unlike the word', () => {
    const placed = withPlaces(words, [{ run, placing: [at(0.9), at(1.3, false), at(1.7), at(2.05)] }]);
    expect(placed.map(({ timing }) => timing)).toEqual(['measured', 'estimated', 'measured', 'measured', 'estimated']);
    expect(placed[1]).toMatchObject({ start: 1.3, end: 1.4 });
  });

  it('are hardly likely where something else is said', () => {
    const placed = withPlaces(words, [{ run, placing: 'not said' }]);
    expect(placed[1]).toMatchObject({ start: 1.2, end: 1.6, timing: 'estimated', confidence: 0.1 });
    expect(placed[0]).toEqual(words[0]);
  });
});
