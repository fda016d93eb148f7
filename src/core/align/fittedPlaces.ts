import type { LogisticModel } from '../detect/calibration/logistic.ts';

// Written by scripts/fit/places.ts.

/** Whether a word is said where it was found: 13602 words of 17 recordings. */
export const PLACED: LogisticModel = {
  intercept: 8.7127,
  weights: {
    like: 0.3525,
    likeBeside: 0.104,
    together: 1.2926,
    long: -2.8578,
    short: -0.9763,
    sounds: -1.3157,
    unknown: 4.4896,
    outer: 0.3532,
    held: 0,
  },
};

/** From this probability on 0.83 of the words are told, and 0.985 of those are right in recordings that were not learned from. */
export const LEAST_PLACED = 0.941;

/** How sure a word is that is told so, whatever it was before. */
export const SURE_OF_PLACED = 0.985;

/**
 * Words that are less like the sound, all together, are not what is said there: 99.5 % of 899 runs of their own recording come to -45.9 and more, 95 % of
 * 66 of another one to -34.0 at most, and most of those are not found at all.
 */
export const LEAST_TOGETHER = -39.9;
