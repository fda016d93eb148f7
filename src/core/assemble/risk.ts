import { LEVEL_RATE } from '../curves/level.ts';
import type { DecidedProposal } from '../decisions/matching.ts';
import type { PreparedPauses } from '../detect/pauses.ts';
import type { Seconds } from '../time/range.ts';

/** What may be wrong with a seam. The interface words it. */
export type SeamDoubt = 'ending' | 'onset' | 'inside' | 'room' | 'close';

export interface SeamRisk {
  /** index of the proposal */
  readonly index: number;
  /** 0 for nothing, about 1 for a seam that must be heard */
  readonly risk: number;
  readonly doubt: SeamDoubt;
}

/** Stretch on either side of a cut that is looked at. */
const LOOK: Seconds = 0.06;
const ROOM: Seconds = 0.15;
/** Decibels over the room, or from room to room, that count as fully doubtful. */
const OVER_ROOM = 10;
const ROOM_STEP = 10;

/**
 * The seams most likely to be wrong, worst first: sound that is still there where the last word is left or already there
 * where the next begins, something swallowed inside, a step of the room from one side to the other, or a pause that is
 * only just one.
 */
export function riskiestSeams(prepared: PreparedPauses, proposals: readonly DecidedProposal[], count: number): SeamRisk[] {
  const risks: SeamRisk[] = [];
  for (const [index, proposal] of proposals.entries()) {
    if (proposal.verdict !== 'out' || proposal.treatment === 'hurry' || proposal.kind === 'hand') continue;
    risks.push(riskOf(prepared, proposal, index));
  }
  return risks.sort((a, b) => b.risk - a.risk || a.index - b.index).slice(0, count);
}

function riskOf(prepared: PreparedPauses, { start, end, confidence, evidence }: DecidedProposal, index: number): SeamRisk {
  const { specks = 0, breaths = 0, noise = 0 } = evidence;
  const left = overFloor(prepared, start - LOOK, start);
  const right = overFloor(prepared, end, end + LOOK);
  const step = Math.abs(levelOf(prepared, start - ROOM, start) - levelOf(prepared, end, end + ROOM)) / 2;
  const parts: readonly (readonly [SeamDoubt, number])[] = [
    ['ending', start <= 0 ? 0 : left / OVER_ROOM],
    ['onset', end >= prepared.duration ? 0 : right / OVER_ROOM],
    ['inside', specks + breaths > 0 || noise > 0 ? 0.9 : 0],
    ['room', start <= 0 || end >= prepared.duration ? 0 : Math.min(1, step / ROOM_STEP) * 0.6],
    ['close', 1 - confidence],
  ];
  const sorted = [...parts].sort((a, b) => b[1] - a[1]);
  const [worst, next] = [sorted[0] as (typeof parts)[number], sorted[1] as (typeof parts)[number]];
  return { index, risk: Math.round((worst[1] + 0.3 * next[1]) * 1000) / 1000, doubt: worst[0] };
}

/** Decibels that the loudest moment of a stretch stands over the room. */
function overFloor({ tracks }: PreparedPauses, from: Seconds, to: Seconds): number {
  let over = 0;
  for (const { curve, tracked } of tracks) {
    const first = Math.max(0, Math.round(from * LEVEL_RATE));
    for (let k = first; k < Math.round(to * LEVEL_RATE); k++) {
      const block = Math.min(tracked.floor.length - 1, Math.floor((k * tracked.floor.length) / curve.codes.length));
      over = Math.max(over, ((curve.codes[k] ?? 0) - (tracked.floor[block] as number)) / 2);
    }
  }
  return over;
}

/** Mean level code of the loudest track. */
function levelOf({ tracks }: PreparedPauses, from: Seconds, to: Seconds): number {
  let loudest = 0;
  for (const { curve, sums } of tracks) {
    const last = curve.codes.length;
    const first = Math.max(0, Math.min(last - 1, Math.round(from * LEVEL_RATE)));
    const end = Math.max(first + 1, Math.min(last, Math.round(to * LEVEL_RATE)));
    loudest = Math.max(loudest, ((sums[end] as number) - (sums[first] as number)) / (end - first));
  }
  return loudest;
}
