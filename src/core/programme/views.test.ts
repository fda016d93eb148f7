import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { SeamChoice } from '../decisions/replay.ts';
import { DEFAULT_SETTINGS } from '../detect/settings.ts';
import { programmeOf } from './programme.ts';
import { viewsOf } from './views.ts';

const CLOSER = { ...DEFAULT_SETTINGS, seamLook: 'closer' as const, closerBy: 8 };
const DISSOLVE = { ...DEFAULT_SETTINGS, seamLook: 'dissolve' as const, dissolveFor: 0.3 };

describe('pieces that are shown closer', () => {
  it('take turns with those that are not, and stay as they are beside what is hurried, empty, or hardly cut', () => {
    const piece = (start: number, end: number, more = {}) => ({ start, end, rate: 1, ...more });
    const programme = programmeOf([
      piece(0, 3),
      piece(4, 7),
      piece(7.05, 9),
      piece(10, 18, { rate: 4 }),
      piece(18, 21),
      piece(22, 24, { hole: true }),
      piece(30, 33),
      piece(26, 29),
    ]);
    expect(viewsOf(programme, CLOSER, []).map(({ closer }) => closer > 0)).toEqual([
      ...[false, true, true, true, true, true, true, false],
    ]);
  });

  it('stay as they are beside a second in which nobody speaks, unless that seam was chosen', () => {
    const piece = (start: number, end: number) => ({ start, end, rate: 1 });
    const programme = programmeOf([piece(0, 5), piece(6, 12), piece(14, 19), piece(19.5, 25)]);
    const silences = [
      { start: 4.5, end: 6.5 },
      { start: 10.9, end: 14.6 },
      { start: 19.2, end: 21 },
    ];
    const closer = (choices: readonly SeamChoice[] = []) =>
      viewsOf(programme, CLOSER, choices, silences).map((view) => view.closer > 0);
    expect(closer()).toEqual([false, true, true, true]);
    expect(closer([{ about: { start: 12, end: 14 }, look: 'closer' }])).toEqual([false, true, false, false]);
    expect(viewsOf(programme, DISSOLVE, [], silences).map((view) => view.dissolve > 0)).toEqual([false, true, false, false]);
  });

  it('never change twice in a second', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0.05, max: 3, noNaN: true }), { minLength: 2, maxLength: 60 }), (lengths) => {
        let at = 0;
        const programme = programmeOf(
          lengths.map((length) => {
            at += 0.5 + length;
            return { start: at - length, end: at, rate: 1 };
          }),
        );
        const closer = viewsOf(programme, CLOSER, []).map((view) => view.closer);
        const changes = programme.offsets.filter((_, k) => k > 0 && closer[k] !== closer[k - 1]);
        for (let k = 1; k < changes.length; k++)
          expect((changes[k] as number) - (changes[k - 1] as number)).toBeGreaterThanOrEqual(1 - 1e-9);
      }),
    );
  });
});

describe('seams that dissolve', () => {
  const piece = (start: number, end: number, more = {}) => ({ start, end, rate: 1, ...more });

  it('take no more than the pieces beside them have, also back in the recording, and none is beside what is hurried', () => {
    const programme = programmeOf([
      piece(0, 3),
      piece(4, 4.2),
      piece(5, 9),
      piece(9, 12, { rate: 3 }),
      piece(13, 16),
      piece(10, 12),
      piece(13.02, 14),
    ]);
    const dissolves = viewsOf(programme, DISSOLVE, []).map(({ dissolve }) => dissolve);
    expect(dissolves.map((seconds) => Math.round(100 * seconds) / 100)).toEqual([0, 0.2, 0.2, 0, 0, 0.3, 0.3]);
  });

  it('are what was chosen for each, the last that was said of it, whatever is set', () => {
    const programme = programmeOf([piece(0, 3), piece(4, 6), piece(6.5, 9), piece(9.6, 12)]);
    const about = { start: 3, end: 4 };
    const looks = (settings: typeof CLOSER | typeof DISSOLVE, ...choices: Parameters<typeof viewsOf>[2]) =>
      viewsOf(programme, settings, choices).map(({ closer, dissolve }) => (dissolve > 0 ? 'over' : closer > 0 ? 'closer' : '-'));
    expect(looks(DEFAULT_SETTINGS as typeof CLOSER, { about, look: 'dissolve' })).toEqual(['-', 'over', '-', '-']);
    expect(looks(CLOSER, { about, look: 'cut' })).toEqual(['-', '-', 'closer', '-']);
    expect(looks(DISSOLVE, { about, look: 'closer' }, { about, look: 'as set' })).toEqual(['-', 'over', 'over', 'over']);
    const near = [{ about: { start: 6, end: 6.5 }, look: 'closer' as const }];
    expect(looks(CLOSER, ...near)).toEqual(['-', 'closer', '-', 'closer']);
  });
});
