import type { LogisticModel } from '../detect/calibration/logistic.ts';

// Written by scripts/fit/places.ts.

/** Whether a word is said where it was found: 17595 words of 21 recordings. */
export const PLACED: LogisticModel = {
  intercept: 10.1551,
  weights: {
    like: 0.4111,
    likeBeside: 0.1551,
    together: 1.6412,
    long: -3.77,
    short: -0.8266,
    sounds: -1.3062,
    unknown: -0.9858,
    outer: 0.2923,
    held: -4.1032,
  },
};

/** From this probability on 0.97 of a recording's own words are told, 0.02 of those of another one at most, and 0.985 of those are right in recordings that were not learned from. */
export const LEAST_PLACED = 0.819;

/** How sure a word is that is told so, whatever it was before. */
export const SURE_OF_PLACED = 0.985;

/**
 * Words that are less like the sound, all together, are not what is said there: 99.5 % of 1213 runs of their own recording come to -41.6 and more, 95 % of
 * 79 of another one to -40.4 at most, and most of those are not found at all.
 */
export const LEAST_TOGETHER = -41.0;
