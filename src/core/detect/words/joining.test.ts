import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { curve, ROOM, VOICE } from '../made.test-help.ts';
import { DEFAULT_SETTINGS } from '../settings.ts';
import { joinAround, loudestOf } from './joining.ts';

const settings = { ...DEFAULT_SETTINGS, minPause: 0.5, airBefore: 0.1, airAfter: 0.16 };

describe('what goes with a filler', () => {
  it('where words touch it, nothing but itself, within a hundredth of a second', () => {
    const loudest = loudestOf([curve([10, VOICE])]);
    const { start, end } = joinAround({ start: 4, end: 4.3 }, { before: 4, after: 4.3, naturalGap: 0.2 }, loudest, settings);
    expect(Math.abs(start - 4)).toBeLessThanOrEqual(0.021);
    expect(Math.abs(end - 4.3)).toBeLessThanOrEqual(0.021);
  });

  it('between two short silences leaves one natural gap of the two', () => {
    const loudest = loudestOf([curve([4, VOICE], [0.3, ROOM], [0.3, VOICE], [0.3, ROOM], [4, VOICE])]);
    const beside = { before: 4, after: 4.9, naturalGap: 0.25 };
    const { start, end } = joinAround({ start: 4.3, end: 4.6 }, beside, loudest, settings);
    expect(start - 4 + (4.9 - end)).toBeCloseTo(0.25, 1);
  });

  it('between two pauses takes the air that they leave next to it', () => {
    const loudest = loudestOf([curve([4, VOICE], [1, ROOM], [0.3, VOICE], [1, ROOM], [4, VOICE])]);
    const { start, end } = joinAround({ start: 5, end: 5.3 }, { before: 4, after: 6.3, naturalGap: 0.2 }, loudest, settings);
    expect(start).toBeLessThanOrEqual(4.9);
    expect(end).toBeGreaterThanOrEqual(5.46);
    // So that of both pauses the air after the last word and the air before the next one are left.
    expect(start).toBeGreaterThan(4.16);
    expect(end).toBeLessThan(6.2);
  });

  it('goes to the quietest moment near its edge', () => {
    const loudest = loudestOf([curve([3.97, VOICE], [0.03, -50], [2, VOICE])]);
    const { start } = joinAround({ start: 4.01, end: 4.3 }, { before: 3.95, after: 4.3, naturalGap: 0.2 }, loudest, settings);
    expect(start).toBeGreaterThan(3.96);
    expect(start).toBeLessThan(4.005);
  });

  it('never enters a neighbour by more than a hundredth of a second, whatever the gaps', () => {
    const loudest = loudestOf([curve([20, VOICE])]);
    const length = fc.integer({ min: 0, max: 2000 }).map((ms) => ms / 1000);
    fc.assert(
      fc.property(length, length, length, fc.double({ min: 0, max: 1, noNaN: true }), (left, own, right, naturalGap) => {
        const found = { start: 5 + left, end: 5 + left + own + 0.05 };
        const beside = { before: 5, after: found.end + right, naturalGap };
        const taken = joinAround(found, beside, loudest, settings);
        expect(taken.start).toBeGreaterThanOrEqual(beside.before - 0.0101);
        expect(taken.end).toBeLessThanOrEqual(beside.after + 0.0101);
        expect(taken.end).toBeGreaterThan(taken.start);
      }),
    );
  });
});
