import type { LogisticModel } from '../detect/calibration/logistic.ts';

/**
 * Probability that an edge of a silence that goes clips a word. Written by `npm run fit:docket` on 2026-11-28 from 6590 cuts of
 * 47 recordings at five lengths of air; not to be changed by hand.
 */
// biome-ignore format: numbers that a script writes
export const EDGES: LogisticModel = {"intercept":-1.8492,"weights":{"airAfter":-2.46,"airBefore":-1.1695,"atEnd":-2.0405},"comesTrue":[[0.001,0.001],[0.0036,0.0033],[0.0236,0.0345],[0.04,0.0345],[0.999,0.5]]};
