import type { DecidedProposal } from '../decisions/matching.ts';
import type { AirSide, DecisionState } from '../decisions/replay.ts';
import { overlapOf, type Seconds } from '../time/range.ts';
import { LEAST_OPENED, openedBy } from './examples.ts';

/** The same side was opened so often, and by about as much, that it may be wanted everywhere. */
export interface AirOffer {
  readonly side: AirSide;
  /** median of what it was opened by */
  readonly seconds: Seconds;
  /** at how many cuts */
  readonly cuts: number;
}

const OFTEN = 3;
/** Openings within this of the median, or within this share of it, are about as much. */
const ABOUT: Seconds = 0.04;
const ABOUT_SHARE = 0.5;

/** What may be offered for all cuts, by the edges that were moved since the air of that side was last decided. */
export function airOffers(proposals: readonly DecidedProposal[], { movedSince }: Pick<DecisionState, 'movedSince'>): AirOffer[] {
  const moved = proposals.filter(({ kind, proposed, verdict }) => kind === 'pause' && proposed && verdict === 'out');
  return (['after', 'before'] as const).flatMap((side) => {
    const steps = movedSince[side];
    const opened = moved
      .filter(({ kind, found }) => steps.some((step) => step.kind === kind && overlapOf(step.about, found) > 0))
      .map((proposal) => openedBy(proposal)[side])
      .filter((by) => by > LEAST_OPENED)
      .sort((a, b) => a - b);
    if (opened.length < OFTEN) return [];
    const median = ((opened[(opened.length - 1) >> 1] as number) + (opened[opened.length >> 1] as number)) / 2;
    const alike = opened.filter((by) => Math.abs(by - median) <= Math.max(ABOUT, ABOUT_SHARE * median));
    return alike.length >= Math.max(OFTEN, 0.6 * opened.length)
      ? [{ side, seconds: Math.round(median * 100) / 100, cuts: alike.length }]
      : [];
  });
}
