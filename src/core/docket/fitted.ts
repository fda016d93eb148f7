import type { LogisticModel } from '../detect/calibration/logistic.ts';
import type { KindFamily } from '../detect/kinds.ts';

/**
 * Probability that an edge of a silence that goes clips a word. Written by `npm run fit:docket` on 2026-11-28 from 7908 cuts of
 * 47 recordings at six lengths of air; not to be changed by hand.
 */
// biome-ignore format: numbers that a script writes
export const EDGES: LogisticModel = {"intercept":-1.465,"weights":{"airAfter":-2.7016,"airBefore":-1.8046,"atEnd":-2.1315},"comesTrue":[[0.001,0.001],[0.0024,0.0031],[0.0236,0.0288],[0.0409,0.0371],[0.999,0.5]]};

/** How much of the doubt that is told of what goes by itself comes true, by what found it. Written with it. */
// biome-ignore format: numbers that a script writes
export const DOUBT_COMES_TRUE: Readonly<Partial<Record<KindFamily, number>>> = {"sound":0.34,"words":0.227,"takes":0.502};
