import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addWeights, BOUNDS, isWithin, type NewStep, weightOf, withinBounds } from './bounds.ts';
import type { DecisionEvent } from './event.ts';
import { replay } from './replay.ts';

const about = (k: number) => ({ start: k, end: k + 0.5 });
const id = (k: number) => `00000000-0000-4000-8000-${String(k).padStart(12, '0')}`;

describe('the bounds of what is decided', () => {
  it('weighs places and words', () => {
    expect(weightOf({ type: 'cut', about: about(1) })).toEqual({ places: 1, words: 0 });
    expect(weightOf({ type: 'cuts', abouts: [about(1), about(2)] })).toEqual({ places: 2, words: 0 });
    const changes = [
      { about: about(1), text: ' the old  clock' },
      { about: about(2), text: '' },
    ];
    expect(weightOf({ type: 'correct', changes })).toEqual({ places: 2, words: 3 });
  });

  it('parts what is too much, loses nothing, and keeps the order', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 12_500 }), fc.integer({ min: 0, max: 40 }), (count, words) => {
        const changes = Array.from({ length: count }, (_, k) => ({ about: about(k), text: 'tick '.repeat(words).trim() }));
        const whole: NewStep = { type: 'correct', changes };
        const parts = withinBounds(whole);
        expect(parts.flatMap((part) => (part.type === 'correct' ? part.changes : []))).toEqual(changes);
        for (const part of parts) expect(isWithin(weightOf(part), BOUNDS.entry)).toBe(true);
        expect(parts.map(weightOf).reduce(addWeights)).toEqual(weightOf(whole));
        if (isWithin(weightOf(whole), BOUNDS.entry)) expect(parts).toEqual([whole]);
      }),
      { numRuns: 30 },
    );
  });

  it('takes back and brings back at once what was decided at once', () => {
    const parts = [0, 1, 2].map((k): DecisionEvent => ({ id: id(k), of: id(0), type: 'cuts', abouts: [about(k)] }));
    const log: DecisionEvent[] = [{ id: id(8), type: 'cut', about: about(9) }, ...parts];
    const undone = replay([...log, { id: id(10), type: 'undo', target: id(2) }]);
    expect(undone.cuts.map(({ about: { start } }) => start)).toEqual([9]);
    expect(undone.redoable?.id).toBe(id(2));
    const redone = replay([...log, { id: id(10), type: 'undo', target: id(2) }, { id: id(11), type: 'redo', target: id(2) }]);
    expect(redone).toEqual(replay(log));
  });
});
