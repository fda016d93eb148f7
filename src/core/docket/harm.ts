import { KINDS, type KindFamily, type ProposalKind } from '../detect/kinds.ts';
import type { Settings } from '../detect/settings.ts';

/** What mistakes about proposals of one family cost, in clipped words. */
interface Cost {
  /** it goes and should have stayed */
  readonly gone: (settings: Settings) => number;
  /** it stays and should have gone */
  readonly left: (settings: Settings) => number;
}

const CLIPPED = 1;
const line: Cost = { gone: ({ costLine }) => costLine, left: ({ costLineIn }) => costLineIn };

const COSTS: Readonly<Record<KindFamily, Cost>> = {
  sound: { gone: () => CLIPPED, left: ({ costPauseIn }) => costPauseIn },
  words: { gone: () => CLIPPED, left: ({ costFillerIn }) => costFillerIn },
  takes: line,
  asides: line,
  hand: { gone: () => 0, left: () => 0 },
};

export const costOf = (kind: ProposalKind): Cost => COSTS[KINDS[kind]];
