import { describe, expect, it } from 'vitest';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { replay } from '@/core/decisions/replay.ts';
import { prepare } from '@/core/detect/registry.ts';
import { computeCut } from '@/core/programme/cutlist.ts';
import { CutView, packCut, type SeenProposal } from '@/core/programme/packing.ts';
import { withEdgeAt } from '../episode/review/review.ts';
import { edgeNear, proposalsIn } from './edges.ts';

const DURATION = 30;
const id = (n: number) => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
const hand = (n: number, start: number, end: number): DecisionEvent => ({ id: id(n), type: 'cut', about: { start, end } });
const stays = (n: number, start: number, end: number): DecisionEvent => ({
  id: id(n),
  type: 'verdict',
  kind: 'hand',
  about: { start, end },
  verdict: 'stay',
});

const events = [hand(1, 4, 6), hand(2, 9.5, 11), hand(3, 15, 16), stays(4, 15, 16)];
const cut = new CutView(
  packCut(DURATION, computeCut(prepare({ duration: DURATION, levels: [], words: [], language: undefined }), replay(events))),
);
const rows = [
  { start: 0, end: 10 },
  { start: 10, end: 20 },
];

describe('edges', () => {
  it('are taken hold of where they are near, the nearest first', () => {
    expect(edgeNear(cut, rows, 4.05, 0.1)).toMatchObject({ side: 'start', proposal: { start: 4, end: 6 } });
    expect(edgeNear(cut, rows, 5.95, 0.1)).toMatchObject({ side: 'end', proposal: { start: 4, end: 6 } });
    expect(edgeNear(cut, rows, 5, 0.1)).toBeUndefined();
    expect(edgeNear(cut, rows, 5.2, 3)).toMatchObject({ side: 'end', proposal: { end: 6 } });
  });

  it('lie in one row alone, though their proposal reaches over two', () => {
    expect(edgeNear(cut, rows.slice(0, 1), 10, 0.6)).toMatchObject({ side: 'start', proposal: { start: 9.5 } });
    expect(edgeNear(cut, rows.slice(1), 10.9, 0.2)).toMatchObject({ side: 'end', proposal: { end: 11 } });
    expect(edgeNear(cut, rows.slice(1), 10, 0.6)).toBeUndefined();
  });

  it('of what stays are none', () => {
    expect(edgeNear(cut, rows, 15, 0.3)).toBeUndefined();
  });

  it('stop before the other edge and at the ends of the recording', () => {
    expect(withEdgeAt({ start: 4, end: 6 }, 'start', 9, DURATION)).toEqual({ start: 5.98, end: 6 });
    expect(withEdgeAt({ start: 4, end: 6 }, 'end', 1, DURATION)).toEqual({ start: 4, end: 4.02 });
    expect(withEdgeAt({ start: 4, end: 6 }, 'start', -1, DURATION)).toEqual({ start: 0, end: 6 });
    expect(withEdgeAt({ start: 4, end: 6 }, 'end', 99, DURATION)).toEqual({ start: 4, end: DURATION });
  });
});

describe('a proposal whose edge is pulled', () => {
  const shown = (part: { start: number; end: number }, pulled?: SeenProposal) =>
    proposalsIn(cut, part, pulled).map(({ start, end }) => [start, end]);

  it('is shown as it is pulled, in every row that it now reaches', () => {
    const [first] = proposalsIn(cut, { start: 0, end: 5 }) as [SeenProposal];
    expect(shown({ start: 0, end: 10 }, { ...first, end: 12.5 })).toEqual([
      [4, 12.5],
      [9.5, 11],
    ]);
    expect(shown({ start: 12, end: 14 }, { ...first, end: 12.5 })).toEqual([[4, 12.5]]);
    expect(shown({ start: 5, end: 8 }, { ...first, end: 4.5 })).toEqual([]);
    expect(shown({ start: 5, end: 8 })).toEqual([[4, 6]]);
  });
});
