import type { LogisticModel } from '../detect/calibration/logistic.ts';

// Written by scripts/fit/places.ts.

/** Whether a word is said where it was found: 36324 words of 36 recordings. */
export const PLACED: LogisticModel = {
  intercept: 10.9487,
  weights: {
    like: 0.2494,
    likeBeside: 0.0864,
    together: 2.2044,
    long: -2.8448,
    short: -0.7341,
    sounds: -1.0584,
    unknown: -1.4294,
    outer: -0.0074,
    held: -2.4866,
  },
};

/** From this probability on 0.93 of a recording's own words are told, 0.02 of those of another one at most, and 0.985 of those are right in recordings that were not learned from. */
export const LEAST_PLACED = 0.883;

/** How sure a word is that is told so, whatever it was before. */
export const SURE_OF_PLACED = 0.985;

/**
 * Words that are less like the sound, all together, are not what is said there: 99.5 % of 1948 runs of their own recording come to -46.9 and more, 95 % of
 * 631 of another one to -41.4 at most, and most of those are not found at all.
 */
export const LEAST_TOGETHER = -44.2;
