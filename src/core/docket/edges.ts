import type { Evidence } from '../detect/calibration/logistic.ts';
import type { Proposal } from '../detect/detector.ts';
import type { Seconds } from '../time/range.ts';

/** Evidence that an edge of a silence clips a word: see `EDGES`. */
export const EDGE_EVIDENCE = ['airAfter', 'airBefore', 'atEnd'] as const;

/** Less air clips no more, since levels are tracked in steps of about as much; more air clips no less. */
const [LEAST, MOST]: readonly [Seconds, Seconds] = [0.02, 0.12];

/** What speaks for and against an edge that clips a word: the air that was left, and whether nothing is said at one of its sides. */
export function edgeEvidence({ found, taken }: Pick<Proposal, 'found' | 'taken'>, atEnd: boolean): Evidence {
  const air = (seconds: Seconds) => 10 * Math.min(MOST, Math.max(LEAST, seconds));
  return { airAfter: air(taken.start - found.start), airBefore: air(found.end - taken.end), atEnd: atEnd ? 1 : 0 };
}
