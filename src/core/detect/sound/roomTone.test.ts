import { describe, expect, it } from 'vitest';
import { dbfsToCode } from '../../curves/level.ts';
import { quietestRoom } from './roomTone.ts';

/** Levels of a track from pairs of a length in seconds and a level in dBFS. */
const track = (...spans: readonly (readonly [seconds: number, level: number])[]) => ({
  codes: Uint8Array.from(
    spans.flatMap(([seconds, level]) => Array.from({ length: Math.round(100 * seconds) }, () => dbfsToCode(level))),
  ),
});

describe('the quiet room of a recording', () => {
  it('is its quietest stretch of some seconds, all tracks together', () => {
    const one = track([5, -20], [4, -60], [5, -20], [4, -58], [5, -20]);
    expect(quietestRoom([one])).toEqual({ start: 5, end: 8 });
    const other = track([9, -30], [14, -70]);
    expect(quietestRoom([one, other])).toEqual({ start: 14, end: 17 });
  });

  it('is shorter where people leave less', () => {
    expect(quietestRoom([track([5, -20], [1, -60], [5, -20])])).toEqual({ start: 5, end: 5.8 });
  });

  it('is no silence that a file was filled with, and none at all where there is no room to be heard', () => {
    expect(quietestRoom([track([5, -120], [5, -20], [2, -60], [5, -20])])).toEqual({ start: 10, end: 11.5 });
    expect(quietestRoom([track([30, -120])])).toBeUndefined();
    expect(quietestRoom([track([0.5, -60])])).toBeUndefined();
    expect(quietestRoom([])).toBeUndefined();
  });
});
