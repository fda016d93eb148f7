import type { LogisticModel } from '../detect/calibration/logistic.ts';

// Written by scripts/fit/places.ts.

/** Whether a word is said where it was found: 67150 words of 84 recordings. */
export const PLACED: LogisticModel = {
  intercept: 7.0634,
  weights: {
    like: 0.6558,
    likeBeside: 0.1344,
    together: -0.1297,
    long: -4.0109,
    short: -0.3237,
    sounds: -1.5007,
    unknown: -0.2672,
    outer: 0.3876,
  },
};

/** From this probability on 0.99 of the words are told, and 0.985 of those are right in recordings that were not learned from. */
export const LEAST_PLACED = 0.816;

/**
 * Words that are less like the sound, all together, are not what is said there: 99.5 % of 4775 runs of their own recording come to -43.5 and more, 95 % of
 * 283 of another one to -42.4 at most, and most of those are not found at all.
 */
export const LEAST_TOGETHER = -43.0;
