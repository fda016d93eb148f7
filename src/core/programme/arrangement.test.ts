import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { DecisionEvent } from '../decisions/event.ts';
import { replay } from '../decisions/replay.ts';
import { timelineOf } from '../outputs/plan/framePlan.ts';
import { momentOnTimeline, wordsOnTimeline } from '../outputs/plan/onTimeline.ts';
import type { Recording } from '../sources/recording.ts';
import { overlapOf, type Range, totalLength } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { arrange } from './arrangement.ts';
import { assemble } from './assemble.ts';
import { partsOf, within } from './parts.ts';
import { isHeard, pieceAt, toProgramme, toSource } from './programme.ts';

/** Bench and lamp room: two recordings on one clock, with room between them. */
const BENCH: Recording = { id: idOf(1), start: 0, end: 60 };
const LAMP: Recording = { id: idOf(2), start: 62, end: 100 };
const BOTH = [BENCH, LAMP];

function idOf(n: number): string {
  return `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
}

let serial = 1000;
const withId = (event: object) => ({ ...event, id: idOf(serial++) }) as DecisionEvent;
const move = (start: number, end: number, to: number, side: 'before' | 'after' = 'before') =>
  withId({ type: 'move', about: { start, end }, to, side });
const orderAfter = (...log: DecisionEvent[]) => arrange(BOTH, replay(log)).map(({ start, end }) => [start, end]);

describe('the order of passages', () => {
  it('is that of the clock until something is moved', () => {
    expect(orderAfter()).toEqual([
      [0, 60],
      [62, 100],
    ]);
  });

  it('sets a passage before what stands at a moment, also in another recording', () => {
    expect(orderAfter(move(10, 20, 40))).toEqual([
      [0, 10],
      [20, 40],
      [10, 20],
      [40, 60],
      [62, 100],
    ]);
    expect(orderAfter(move(10, 20, 62))).toEqual([
      [0, 10],
      [20, 60],
      [10, 20],
      [62, 100],
    ]);
  });

  it('sets a whole recording before another, or after the last', () => {
    const swapped = [
      [62, 100],
      [0, 60],
    ];
    expect(orderAfter(move(62, 100, 0))).toEqual(swapped);
    expect(orderAfter(move(0, 60, 100, 'after'))).toEqual(swapped);
  });

  it('is as before when a passage is set into itself, into no recording, or moved back', () => {
    const asRecorded = orderAfter();
    expect(orderAfter(move(10, 20, 15))).toEqual(asRecorded);
    expect(orderAfter(move(10, 20, 61))).toEqual(asRecorded);
    expect(orderAfter(move(10, 20, 40), move(10, 20, 20))).toEqual(asRecorded);
    const away = move(10, 20, 40);
    expect(orderAfter(away, withId({ type: 'sendBack', move: away.id }))).toEqual(asRecorded);
  });

  it('moves what was moved together with what it lies in now', () => {
    expect(orderAfter(move(10, 20, 40), move(0, 60, 100, 'after'))).toEqual([
      [62, 100],
      [0, 10],
      [20, 40],
      [10, 20],
      [40, 60],
    ]);
  });

  it('leaves a removed recording out, and has it again when it is put back', () => {
    const out = withId({ type: 'recording', recording: LAMP.id, present: false });
    const moved = move(70, 80, 5);
    expect(orderAfter(moved, out)).toEqual([[0, 60]]);
    expect(orderAfter(moved, out, withId({ type: 'recording', recording: LAMP.id, present: true }))).toEqual(orderAfter(moved));
  });

  it('holds only what is wanted while collecting, in the order of marking or of the recording', () => {
    const collect = (start: number, end: number, wanted = true) => withId({ type: 'collect', about: { start, end }, wanted });
    const marked = [collect(70, 80), collect(5, 20), collect(15, 30), collect(8, 10, false)];
    const collecting = (order: 'marking' | 'recording', on = true) => withId({ type: 'collecting', on, order });
    expect(orderAfter(...marked, collecting('marking'))).toEqual([
      [70, 80],
      [5, 8],
      [10, 20],
      [20, 30],
    ]);
    expect(orderAfter(...marked, collecting('recording'))).toEqual([
      [5, 8],
      [10, 30],
      [70, 80],
    ]);
    expect(orderAfter(...marked, collecting('marking'), collecting('marking', false))).toEqual(orderAfter());
  });
});

/** Whole and half seconds, so that moves, cuts and ends of recordings meet. */
const moment = fc.integer({ min: 0, max: 204 }).map((halves) => halves / 2);
const passage = fc.tuple(moment, fc.integer({ min: 1, max: 60 })).map(([start, halves]) => ({ start, end: start + halves / 2 }));
const aLog = fc.array(
  fc.oneof(
    {
      arbitrary: fc
        .tuple(passage, moment, fc.constantFrom('before', 'after'))
        .map(([about, to, side]) => withId({ type: 'move', about, to, side })),
      weight: 5,
    },
    fc
      .tuple(fc.constantFrom(BENCH.id, LAMP.id), fc.boolean())
      .map(([recording, present]) => withId({ type: 'recording', recording, present })),
    fc.tuple(passage, fc.boolean()).map(([about, wanted]) => withId({ type: 'collect', about, wanted })),
    fc
      .tuple(fc.boolean(), fc.constantFrom('marking', 'recording'))
      .map(([on, order]) => withId({ type: 'collecting', on, order })),
  ),
  { maxLength: 12 },
);
const verdicts = fc
  .array(
    fc
      .tuple(passage, fc.constantFrom('remove', 'hurry', 'hole'), fc.constantFrom('out', 'out', 'open'))
      .map(([range, treatment, verdict]) => ({
        ...range,
        treatment: treatment as 'remove',
        verdict: verdict as 'out',
        amount: treatment === 'hurry' ? 2 : undefined,
      })),
    { maxLength: 8 },
  )
  .map((list) => list.sort((a, b) => a.start - b.start || a.end - b.end));

const disjoint = (ranges: readonly Range[]) => ranges.every((a, k) => ranges.slice(k + 1).every((b) => overlapOf(a, b) < 1e-6));

describe('a programme in any order', () => {
  it('is a permutation of what is present: nothing is lost, nothing comes twice', () => {
    fc.assert(
      fc.property(aLog, (log) => {
        const state = replay(log);
        const passages = arrange(BOTH, state);
        expect(disjoint(passages)).toBe(true);
        for (const one of passages) expect(BOTH.some(({ start, end }) => one.start >= start && one.end <= end)).toBe(true);
        const present = BOTH.filter(({ id }) => !state.removed.includes(id));
        const wanted = state.collecting ? state.collected : present;
        const expected = wanted.reduce((sum, range) => sum + present.reduce((part, one) => part + overlapOf(range, one), 0), 0);
        expect(totalLength(passages)).toBeCloseTo(expected, 6);
      }),
      { numRuns: 400 },
    );
  });

  it('plays every piece once, for as long as it is treated to, and maps both ways', () => {
    fc.assert(
      fc.property(aLog, verdicts, (log, list) => {
        const passages = arrange(BOTH, replay(log));
        const programme = assemble(passages, list);
        const { pieces, offsets, length } = programme;
        expect(disjoint(pieces)).toBe(true);
        expect(length).toBeCloseTo(
          pieces.reduce((sum, { start, end, rate }) => sum + (end - start) / rate, 0),
          6,
        );
        // What no verdict takes away is there, whatever the order.
        const kept = assemble(passages, []).length;
        const out = list.filter(({ verdict, treatment }) => verdict === 'out' && treatment === 'remove');
        if (out.length === 0) expect(totalLength(pieces)).toBeCloseTo(kept, 6);
        for (const [k, { start, end, rate }] of pieces.entries()) {
          expect(BOTH.some((recording) => start >= recording.start && end <= recording.end)).toBe(true);
          for (const share of [0, 0.3, 0.99]) {
            const at = start + share * (end - start);
            expect(isHeard(programme, at)).toBe(true);
            const heardAt = toProgramme(programme, at);
            expect(heardAt).toBeCloseTo((offsets[k] as number) + (at - start) / rate, 6);
            expect(pieceAt(programme, heardAt + 1e-7)).toBe(k);
            expect(toSource(programme, heardAt)).toBeCloseTo(at, 6);
          }
        }
      }),
      { numRuns: 400 },
    );
  });

  it('tells the words that are left in the order in which they are heard', () => {
    const words = Array.from({ length: 90 }, (_, k): Word => {
      const start = k + 0.25;
      return { text: `w${k}`, start, end: start + 0.5, confidence: 1, speaker: '', timing: 'measured' };
    });
    fc.assert(
      fc.property(aLog, verdicts, (log, list) => {
        const programme = assemble(arrange(BOTH, replay(log)), list);
        const files = BOTH.map(({ start, end }) => ({
          start,
          end,
          media: { name: `${start}.wav`, duration: end - start, tracks: 1, hasVideo: false },
        }));
        const timeline = timelineOf(files, programme);
        const left = wordsOnTimeline(timeline, words).map(({ word }) => word);
        const texts = left.map(({ text }) => text);
        expect(new Set(texts).size).toBe(texts.length);
        for (const [k, { start, end, text }] of left.entries()) {
          expect(start).toBeGreaterThanOrEqual(left[k - 1]?.start ?? 0);
          expect(end).toBeGreaterThanOrEqual(start);
          // The middle of the word is what is heard there.
          const middle = Number(text.slice(1)) + 0.5;
          expect(isHeard(programme, middle)).toBe(true);
          expect(Math.abs(momentOnTimeline(timeline, middle) / 25 - (start + end) / 2)).toBeLessThan(0.3);
        }
      }),
      { numRuns: 200 },
    );
  });
});

describe('parts', () => {
  const breakAt = (at: number, title: string) => withId({ type: 'break', part: idOf(serial++), at, title });
  const told = (log: DecisionEvent[], out: { start: number; end: number }[] = []) => {
    const state = replay(log);
    const list = out.map((range) => ({ ...range, treatment: 'remove' as const, verdict: 'out' as const, amount: undefined }));
    return partsOf(assemble(arrange(BOTH, state), list), state.breaks).map(({ title, start, end }) => [title, start, end]);
  };

  it('go from break to break, and the one before the first is a part as well', () => {
    expect(told([])).toEqual([['Part 1', 0, 98]]);
    expect(told([breakAt(62, 'The lamp'), breakAt(30, '')])).toEqual([
      ['Part 1', 0, 30],
      ['Part 2', 30, 60],
      ['The lamp', 60, 98],
    ]);
  });

  it('begin where a moment that is out has vanished, go along with what is moved, and a break at the start titles the first', () => {
    expect(told([breakAt(30, 'Second')], [{ start: 25, end: 40 }])).toEqual([
      ['Part 1', 0, 25],
      ['Second', 25, 83],
    ]);
    expect(told([breakAt(62, 'The lamp'), move(62, 100, 0), breakAt(0, 'The bench')])).toEqual([
      ['The lamp', 0, 38],
      ['The bench', 38, 98],
    ]);
  });

  it('are renamed, and taken away', () => {
    const first = breakAt(30, 'Secnd') as Extract<DecisionEvent, { type: 'break' }>;
    const better = withId({ type: 'break', part: first.part, at: 30, title: 'Second' });
    expect(told([first, better]).map(([title]) => title)).toEqual(['Part 1', 'Second']);
    expect(told([first, withId({ type: 'unbreak', part: first.part })])).toHaveLength(1);
  });

  it('make up the programme, piece by piece', () => {
    fc.assert(
      fc.property(aLog, verdicts, fc.array(moment, { maxLength: 5 }), (log, list, breaks) => {
        const state = replay([...log, ...breaks.map((at) => breakAt(at, ''))]);
        const programme = assemble(arrange(BOTH, state), list);
        const parts = partsOf(programme, state.breaks);
        const played = parts.map((part) => within(programme, part));
        expect(played.reduce((sum, { length }) => sum + length, 0)).toBeCloseTo(programme.length, 6);
        const pieces = played.flatMap((part) => part.pieces);
        expect(totalLength(pieces)).toBeCloseTo(totalLength(programme.pieces), 6);
        expect(disjoint(pieces)).toBe(true);
      }),
      { numRuns: 200 },
    );
  });
});
