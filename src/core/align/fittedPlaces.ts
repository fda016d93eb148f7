import type { LogisticModel } from '../detect/calibration/logistic.ts';

// Written by scripts/fit/places.ts.

/** Whether a word is said where it was found: 64703 words of 84 recordings. */
export const PLACED: LogisticModel = {
  intercept: 6.7972,
  weights: {
    like: 0.755,
    likeBeside: 0.081,
    together: -0.0435,
    long: -3.3303,
    short: -0.2774,
    sounds: -1.0194,
    unknown: -0.0008,
    outer: 0.5393,
  },
};

/** From this probability on 0.93 of the words are told, and 0.985 of those are right in recordings that were not learned from. */
export const LEAST_PLACED = 0.919;

/**
 * Words that are less like the sound, all together, are not what is said there: 99.5 % of 1487 runs of their own recording come to -36.4 and more, 95 % of
 * 37 of another one to -42.6 at most, and most of those are not found at all.
 */
export const LEAST_TOGETHER = -39.5;
