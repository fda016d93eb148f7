/**
 * Spread, in log-odds, of how far a class of that depth strays from what is told of it: kind; entry or reason; place or air. Written by
 * `npm run fit:docket` on 2026-11-28 from 199 walks through 47 recordings; not to be changed by hand.
 */
// biome-ignore format: numbers that a script writes
export const STRAYS: readonly number[] = [1,1.4,0.2];
