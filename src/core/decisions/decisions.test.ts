import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Proposal } from '../detect/detector.ts';
import { DEFAULT_SETTINGS } from '../detect/settings.ts';
import { type DecisionEvent, decisionEvent, type Verdict } from './event.ts';
import { applyDecisions } from './matching.ts';
import { NO_STEPS, repeats, replay } from './replay.ts';

const id = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const verdict = (n: number, start: number, end: number, v: Verdict): DecisionEvent => ({
  id: id(n),
  type: 'verdict',
  kind: 'pause',
  about: { start, end },
  verdict: v,
});
const cut = (n: number, start: number, end: number): DecisionEvent => ({ id: id(n), type: 'cut', about: { start, end } });
const undo = (n: number, target: number): DecisionEvent => ({ id: id(n), type: 'undo', target: id(target) });
const redo = (n: number, target: number): DecisionEvent => ({ id: id(n), type: 'redo', target: id(target) });

const pause = (start: number, end: number, confidence = 0.98): Proposal => ({
  id: `pause-${start}`,
  kind: 'pause',
  start: start + 0.1,
  end: end - 0.1,
  found: { start, end },
  taken: { start: start + 0.1, end: end - 0.1 },
  treatment: 'remove',
  confidence,
  evidence: {},
});

describe('the log', () => {
  it('undoes and redoes, and a new step ends the chance to redo', () => {
    const log = [cut(1, 0, 1), cut(2, 5, 6), undo(3, 2)];
    expect(replay(log).cuts.map((step) => step.id)).toEqual([id(1)]);
    expect(replay(log).redoable?.id).toBe(id(2));
    expect(replay([...log, redo(4, 2)]).cuts).toHaveLength(2);
    expect(replay([...log, cut(5, 8, 9)]).redoable).toBeUndefined();
    expect(replay([...log, cut(5, 8, 9), redo(6, 2)]).cuts.map((step) => step.id)).toEqual([id(1), id(5)]);
  });

  it('undoes once what two tabs undo at the same time', () => {
    const { cuts, undoable } = replay([cut(1, 0, 1), cut(2, 5, 6), undo(3, 2), undo(4, 2)]);
    expect(cuts.map((step) => step.id)).toEqual([id(1)]);
    expect(undoable?.id).toBe(id(1));
  });

  it('keeps what was found in its order, as no decision', () => {
    const correct: DecisionEvent = { id: id(1), type: 'correct', changes: [{ about: { start: 1, end: 2 }, text: 'a key' }] };
    const found: DecisionEvent = { id: id(2), type: 'found', correction: id(1), about: { start: 1, end: 2 }, places: [] };
    const state = replay([correct, cut(3, 5, 6), undo(4, 3), found, { ...correct, id: id(5) }]);
    expect(state.text.map((step) => step.id)).toEqual([id(1), id(2), id(5)]);
    const before = replay([correct, cut(3, 5, 6), undo(4, 3), found]);
    expect([before.undoable?.id, before.redoable?.id]).toEqual([id(1), id(3)]);
    expect(replay([correct, found, undo(6, 2)]).undoable?.id).toBe(id(1));
    expect(decisionEvent.safeParse({ ...found, places: [{ start: 1, end: 2, error: -1, isLike: true }] }).success).toBe(false);
  });

  it('keeps settings like everything else', () => {
    const change = (n: number, value: number): DecisionEvent => ({
      id: id(n),
      type: 'setting',
      change: { name: 'minPause', value },
    });
    expect(replay([change(1, 0.3), change(2, 0.9)]).settings.minPause).toBe(0.9);
    expect(replay([change(1, 0.3), change(2, 0.9), undo(3, 2)]).settings.minPause).toBe(0.3);
    expect(replay([change(1, 0.3), undo(2, 1)]).settings).toEqual(DEFAULT_SETTINGS);
  });

  it('knows a step that says what the last one in force says', () => {
    const { id: _, ...again } = cut(1, 0, 1) as Extract<DecisionEvent, { type: 'cut' }>;
    const other = { ...again, about: { start: 0, end: 2 } };
    expect(repeats(again, replay([]))).toBe(false);
    expect(repeats(again, replay([cut(1, 0, 1)]))).toBe(true);
    expect(repeats(other, replay([cut(1, 0, 1)]))).toBe(false);
    // Taken back, or said before something else, it says something again.
    expect(repeats(again, replay([cut(1, 0, 1), undo(2, 1)]))).toBe(false);
    expect(repeats(again, replay([cut(1, 0, 1), cut(2, 5, 6)]))).toBe(false);
    expect(repeats(again, replay([cut(1, 0, 1), cut(2, 5, 6), undo(3, 2)]))).toBe(true);
  });

  it('after undoing everything is as it was, and after redoing everything as it had become', () => {
    const steps = fc.array(fc.tuple(fc.integer({ min: 0, max: 90 }), fc.integer({ min: 1, max: 9 })), { maxLength: 20 });
    fc.assert(
      fc.property(steps, (list) => {
        const log = list.map(([start, length], n) => cut(n, start, start + length));
        const full = replay(log);
        let events = [...log];
        let n = 1000;
        for (let state = replay(events); state.undoable; state = replay(events))
          events = [...events, { id: id(n++), type: 'undo', target: state.undoable.id }];
        expect(replay(events).cuts).toEqual([]);
        for (let state = replay(events); state.redoable; state = replay(events))
          events = [...events, { id: id(n++), type: 'redo', target: state.redoable.id }];
        expect(replay(events).cuts).toEqual(full.cuts);
      }),
    );
  });

  it('takes no entry that does not fit', () => {
    for (const wrong of [
      { ...cut(1, 0, 1), id: 'one' },
      cut(1, 2, 2),
      cut(1, -1, 2),
      { id: id(1), type: 'setting', change: { name: 'minPause', value: 99 } },
      { id: id(1), type: 'setting', change: { name: 'nonsense', value: 1 } },
      { id: id(1), type: 'erase everything' },
    ])
      expect(decisionEvent.safeParse(wrong).success).toBe(false);
  });
});

describe('decisions on proposals', () => {
  it('apply to proposals that cover at least half of what they were about', () => {
    const state = replay([verdict(1, 10, 12, 'stay')]);
    const verdictOf = (proposal: Proposal) => applyDecisions([proposal], state).proposals[0]?.verdict;
    expect(verdictOf(pause(10.4, 11.5))).toBe('stay');
    expect(verdictOf(pause(8, 14))).toBe('stay');
    expect(verdictOf(pause(11.1, 14))).toBe('out');
  });

  it('survive air that leaves less of a pause than half', () => {
    const tight = { ...pause(10, 12), start: 10.9, end: 11.1 };
    expect(applyDecisions([tight], replay([verdict(1, 10, 12, 'stay')])).proposals[0]?.verdict).toBe('stay');
  });

  it('wait in the log while they meet nothing', () => {
    const state = replay([verdict(1, 10, 12, 'stay')]);
    expect(applyDecisions([pause(30, 32)], state).unmatched).toHaveLength(1);
    expect(applyDecisions([pause(10, 12), pause(30, 32)], state).unmatched).toHaveLength(0);
  });

  it('the latest one wins, and without one the program’s own confidence decides', () => {
    const { proposals } = applyDecisions(
      [pause(1, 2), pause(3, 4, 0.3), pause(5, 6, 0.3)],
      replay([verdict(1, 1, 2, 'stay'), verdict(2, 1, 2, 'open'), verdict(3, 5, 6, 'out')]),
    );
    expect(proposals.map((p) => [p.verdict, p.decided])).toEqual([
      ['open', true],
      ['open', false],
      ['out', true],
    ]);
  });

  it('are not asked for inside something that goes anyway, unless somebody left it open', () => {
    const cuts = [...replay([cut(1, 2, 8)]).cuts];
    const inside = pause(4, 5, 0.3);
    const verdictOf = (log: DecisionEvent[]) =>
      applyDecisions([inside, pause(7, 9, 0.3)], { ...replay(log), cuts }).proposals.map(({ verdict }) => verdict);
    expect(verdictOf([])).toEqual(['out', 'out', 'open']);
    expect(verdictOf([verdict(2, 4, 5, 'open')])).toEqual(['out', 'open', 'open']);
  });

  it('made by hand join the proposals in order of time and can be put back', () => {
    const log = [cut(1, 2.2, 2.8)];
    const made = applyDecisions([pause(1, 2), pause(3, 4)], replay(log)).proposals;
    expect(made.map((p) => p.kind)).toEqual(['pause', 'hand', 'pause']);
    const back = replay([...log, { id: id(2), type: 'verdict', kind: 'hand', about: { start: 2.2, end: 2.8 }, verdict: 'stay' }]);
    expect(applyDecisions([], back).proposals[0]?.verdict).toBe('stay');
    expect(applyDecisions([pause(1, 2)], NO_STEPS).proposals).toHaveLength(1);
  });
});

describe('steps about one proposal', () => {
  const about = { start: 2, end: 5 };
  const apply = (...log: DecisionEvent[]) => applyDecisions([pause(2, 5), pause(8, 9)], replay(log));

  it('give it another treatment, and another edge, and leave its neighbours alone', () => {
    const [changed, other] = apply(
      { id: id(1), type: 'treat', kind: 'pause', about, treatment: 'hurry' },
      { id: id(2), type: 'edge', kind: 'pause', about, taken: { start: 2.5, end: 4 } },
    ).proposals;
    expect(changed).toMatchObject({ treatment: 'hurry', amount: 4, start: 2.5, end: 4, decided: true, verdict: 'out' });
    expect(other).toMatchObject({ treatment: 'remove', start: 8.1, end: 8.9, decided: false });
  });

  it('shorten from what may be taken, whatever its treatment was before', () => {
    const [changed] = apply({ id: id(1), type: 'treat', kind: 'pause', about, treatment: 'shorten' }).proposals;
    expect((changed?.end ?? 0) - (changed?.start ?? 0)).toBeCloseTo(3 - 0.6, 9);
  });

  it('stay in the log while they meet nothing', () => {
    const step: DecisionEvent = { id: id(1), type: 'treat', kind: 'pause', about: { start: 20, end: 22 }, treatment: 'hole' };
    expect(apply(step).unmatched.map((unmet) => unmet.id)).toEqual([id(1)]);
  });
});

describe('marked ranges and sets of settings in the log', () => {
  const section = id(77);
  const mark = (n: number, values: Record<string, number>): DecisionEvent => ({
    id: id(n),
    type: 'section',
    section,
    about: { start: 1, end: 9 },
    values,
  });

  it('the latest entry about a range counts, and unmarking ends it; both are undone', () => {
    expect(replay([mark(1, {}), mark(2, { minPause: 2 })]).sections).toEqual([
      { id: section, about: { start: 1, end: 9 }, values: { minPause: 2 } },
    ]);
    const ended: DecisionEvent = { id: id(3), type: 'unmark', section };
    expect(replay([mark(1, {}), ended]).sections).toEqual([]);
    expect(replay([mark(1, {}), ended, undo(4, 3)]).sections).toHaveLength(1);
    expect(replay([mark(1, {}), mark(2, { minPause: 2 }), undo(4, 2)]).sections[0]?.values).toEqual({});
  });

  it('several settings change at once and are undone at once', () => {
    const set: DecisionEvent = { id: id(1), type: 'settings', values: { minPause: 0.3, airAfter: 0.05 }, name: 'taut' };
    expect(replay([set]).settings).toMatchObject({ minPause: 0.3, airAfter: 0.05 });
    expect(replay([set, undo(2, 1)]).settings).toEqual(DEFAULT_SETTINGS);
    expect(decisionEvent.safeParse({ ...set, values: { minPause: 99 } }).success).toBe(false);
    expect(decisionEvent.safeParse({ ...set, values: { unheard: 1 } }).success).toBe(false);
  });
});
