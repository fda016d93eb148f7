import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { DecidedProposal } from '../decisions/matching.ts';
import { DEFAULT_SETTINGS } from '../detect/settings.ts';
import { planOne } from '../outputs/plan/made.test-help.ts';
import type { HandoffMedia } from '../outputs/plan/media.ts';
import { totalLength } from '../time/range.ts';
import { framesToSeconds } from '../time/rate.ts';
import { assemble } from './assemble.ts';
import type { Cut } from './cutlist.ts';
import { CutView, packCut } from './packing.ts';
import { pieceAt, seamCount, toProgramme, toSource } from './programme.ts';

const proposal = (start: number, end: number, verdict: DecidedProposal['verdict'] = 'out'): DecidedProposal => ({
  id: `pause-${start}`,
  kind: 'pause',
  start,
  end,
  found: { start, end },
  taken: { start, end },
  treatment: 'remove',
  confidence: 0.9,
  evidence: {},
  verdict,
  decided: false,
});

const cutOf = (duration: number, proposals: DecidedProposal[]): Cut => ({
  settings: DEFAULT_SETTINGS,
  proposals,
  unmatched: [],
  programme: assemble([{ start: 0, end: duration }], proposals),
});

const cuts = fc
  .array(fc.tuple(fc.integer({ min: 10, max: 4000 }), fc.integer({ min: 1, max: 900 })), { maxLength: 40 })
  .map((gaps) => {
    let at = 0;
    return gaps.map(([before, length]) => {
      const start = at + before / 100;
      at = start + length / 100;
      return proposal(start, at);
    });
  });

describe('the programme', () => {
  it('holds what is not out: open and stay stay in', () => {
    const programme = assemble(
      [{ start: 0, end: 20 }],
      [proposal(2, 3), proposal(5, 6, 'open'), proposal(8, 9, 'stay'), proposal(19, 20)],
    );
    expect(programme.pieces.map(({ start, end }) => [start, end])).toEqual([
      [0, 2],
      [3, 19],
    ]);
    expect(seamCount(programme)).toBe(1);
    expect(programme.length).toBe(18);
  });

  it('and what was removed make up the recording', () => {
    fc.assert(
      fc.property(cuts, (list) => {
        const duration = (list.at(-1)?.end ?? 0) + 3;
        expect(assemble([{ start: 0, end: duration }], list).length + totalLength(list)).toBeCloseTo(duration, 6);
      }),
    );
  });

  it('leaves no scrap between two cuts that is too short for any word, and splits without losing sound', () => {
    expect(assemble([{ start: 0, end: 10 }], [proposal(2, 3), proposal(3.02, 4)]).pieces).toHaveLength(2);
    expect(assemble([{ start: 0, end: 10 }], [proposal(2, 3), proposal(3.08, 4)]).pieces).toHaveLength(3);
    const split = assemble([{ start: 0, end: 10 }], [proposal(2, 3)], 'mute', [1, 1.01, 2.5, 3.001]);
    expect(split.length).toBeCloseTo(9, 9);
    expect(split.pieces[0]).toMatchObject({ start: 0, end: 1 });
  });

  it('maps the recording’s time to its own and back; what is out maps to its seam', () => {
    const programme = assemble([{ start: 0, end: 10 }], [proposal(2, 5)]);
    expect(toProgramme(programme, 1)).toBe(1);
    expect(toProgramme(programme, 3.3)).toBe(2);
    expect(toProgramme(programme, 6)).toBe(3);
    expect(toSource(programme, 2.5)).toBe(5.5);
    expect(pieceAt(programme, 1.9)).toBe(0);
    expect(pieceAt(programme, 2)).toBe(1);
    fc.assert(
      fc.property(cuts, fc.double({ min: 0, max: 1, noNaN: true }), (list, share) => {
        const made = assemble([{ start: 0, end: (list.at(-1)?.end ?? 0) + 3 }], list);
        const at = share * made.length;
        expect(toProgramme(made, toSource(made, at))).toBeCloseTo(at, 6);
      }),
    );
  });

  it('can be empty', () => {
    const programme = assemble([{ start: 0, end: 5 }], [proposal(0, 5)]);
    expect(programme.pieces).toHaveLength(0);
    expect(toSource(programme, 1)).toBe(0);
    expect(toProgramme(programme, 3)).toBe(0);
  });
});

const media: HandoffMedia = { name: 'clock.mp4', duration: 36_000, frameRate: '24000/1001', tracks: 1, hasVideo: true };

describe('hand-off to frames', () => {
  it('rounds in-points down and out-points up, and sets events end to end', () => {
    const { events } = planOne('t', { ...media, duration: 10, frameRate: '25/1' }, cutOf(10, [proposal(2.01, 5.03)]));
    expect(events).toEqual([
      { sourceIn: 0, sourceOut: 51, recordIn: 0, recordOut: 51 },
      { sourceIn: 125, sourceOut: 250, recordIn: 51, recordOut: 176 },
    ]);
  });

  it('does not drift in ten hours at any rate', () => {
    const proposals = Array.from({ length: 5000 }, (_, k) => proposal(k * 7 + 3.3337, k * 7 + 4.1113));
    for (const frameRate of ['24000/1001', '25/1', '30000/1001', '60000/1001']) {
      const { events, rate } = planOne('t', { ...media, frameRate }, cutOf(36_000, proposals));
      let record = 0;
      for (const [k, event] of events.entries()) {
        expect(event.recordIn).toBe(record);
        record += event.sourceOut - event.sourceIn;
        expect(event.recordOut).toBe(record);
        const piece = { start: k === 0 ? 0 : (k - 1) * 7 + 4.1113, end: k < 5000 ? k * 7 + 3.3337 : 36_000 };
        const frame = rate.den / rate.num;
        const lead = piece.start - framesToSeconds(event.sourceIn, rate);
        const trail = framesToSeconds(event.sourceOut, rate) - piece.end;
        expect(lead).toBeGreaterThan(-1e-6);
        expect(lead).toBeLessThan(frame);
        expect(trail).toBeGreaterThan(-frame);
        expect(trail).toBeLessThan(frame);
      }
    }
  });

  it('leaves in, and says, cuts that are shorter than a frame', () => {
    const { events, roundings } = planOne(
      't',
      { ...media, duration: 10, frameRate: '25/1' },
      cutOf(10, [proposal(2.01, 2.03), proposal(5, 6)]),
    );
    expect(events).toHaveLength(2);
    expect(roundings.vanished).toBe(1);
  });

  it('counts from the file’s own start timecode, drop-frame if it is', () => {
    const start = planOne('t', { ...media, frameRate: '30000/1001', timecode: '01:00:00;00' }, cutOf(10, []));
    expect(start.mode).toBe('drop');
    expect(start.sources[0]?.start).toBe(107_892);
    const foreign = planOne('t', { ...media, frameRate: '25/1', timecode: '01:00:00:29' }, cutOf(10, []));
    // Frame 29 can only have been counted at 30: 24 twenty-fifths of the second.
    expect(foreign.sources[0]?.start).toBe(90_024);
  });
});

describe('a packed cut', () => {
  /** a tenth of a millisecond, rounded */
  const tick = 0.5e-4 + 1e-9;

  it('unpacks to the same to a tenth of a millisecond, and is searched by moment', () => {
    fc.assert(
      fc.property(cuts, (list) => {
        const cut = cutOf((list.at(-1)?.end ?? 0) + 3, list);
        const view = new CutView(packCut(100_000, cut));
        const { pieces, length } = view.programme;
        expect(pieces).toHaveLength(cut.programme.pieces.length);
        for (const [k, { start, end, rate }] of cut.programme.pieces.entries()) {
          expect(Math.abs((pieces[k]?.start ?? Number.NaN) - start)).toBeLessThan(tick);
          expect(Math.abs((pieces[k]?.end ?? Number.NaN) - end)).toBeLessThan(tick);
          expect(pieces[k]?.rate).toBe(rate);
        }
        expect(Math.abs(length - cut.programme.length)).toBeLessThan(tick * 2 * (pieces.length + 1));
        expect(view.length).toBeCloseTo(length, 6);
        for (const [k, original] of list.entries()) {
          const { start, end, ...seen } = view.at(k);
          expect(Math.abs(start - original.start)).toBeLessThan(tick);
          expect(Math.abs(end - original.end)).toBeLessThan(tick);
          expect(seen).toMatchObject({ kind: 'pause', verdict: 'out', confidence: original.confidence });
          expect(view.over((original.start + original.end) / 2)?.index).toBe(k);
          expect(view.same(original)?.index).toBe(k);
        }
      }),
    );
  });

  it('keeps how pieces are played that are not played as they are', () => {
    const cut = {
      ...cutOf(20, []),
      programme: assemble(
        [{ start: 0, end: 20 }],
        [{ ...proposal(2, 4), treatment: 'hole' }, { ...proposal(6, 9), treatment: 'hurry', amount: 2.5 }, proposal(12, 13)],
        'pitch',
      ),
    };
    const view = new CutView(packCut(20, cut));
    expect(view.programme).toEqual(cut.programme);
    // 20 s, less one that goes, less three of which 1.2 are left.
    expect(view.length).toBeCloseTo(17.2, 9);
    expect(view.seams).toBe(5);
  });

  it('keeps what the page shows of a proposal', () => {
    const shown = [
      { ...proposal(1, 2), kind: 'filler', group: 'um', found: { start: 1.1, end: 1.9 }, confidence: 0.97 },
      { ...proposal(3, 5), kind: 'pause', treatment: 'shorten', decided: true, confidence: 0.455 },
      { ...proposal(6, 7, 'stay'), kind: 'repeat', group: 'we should', decided: true, confidence: 0 },
      { ...proposal(8, 9, 'open'), kind: 'filler', group: 'um', confidence: 1 },
      { ...proposal(90_000.1234, 90_001), kind: 'hand' },
    ] satisfies DecidedProposal[];
    const view = new CutView(packCut(100_000, cutOf(100_000, shown)));
    for (const [index, { id: _, taken: __, evidence: ___, ...rest }] of shown.entries())
      expect(view.at(index)).toEqual({ group: undefined, ...rest, index });
  });

  it('holds a recording of a week', () => {
    const [week, late] = [604_800, 604_700];
    const view = new CutView(packCut(week, cutOf(week, [proposal(late, late + 10)])));
    expect(view.at(0)).toMatchObject({ start: late, end: late + 10 });
    expect(view.length).toBe(week - 10);
  });

  it('counts what is open, and finds nothing where nothing is', () => {
    const view = new CutView(packCut(9, cutOf(9, [proposal(1, 2, 'open'), proposal(3, 4)])));
    expect(view.open).toBe(1);
    expect(view.over(2.5)).toBeUndefined();
    expect(view.same({ kind: 'hand', found: { start: 1, end: 2 } })).toBeUndefined();
  });
});
