import type { LogisticModel } from './logistic.ts';

/** What each kind of proposal is judged by: evidence in, probability that it is right out. */
export interface Calibration {
  readonly pauses: LogisticModel;
  /** entries of the lexicon that are hesitations and nothing else */
  readonly hesitations: LogisticModel;
  /** words that are fillers by what stands round them */
  readonly fillers: LogisticModel;
  /** hesitations that are heard and not written */
  readonly heard: LogisticModel;
  /** hesitations for which another word is written */
  readonly underWord: LogisticModel;
  readonly repeats: LogisticModel;
  /** two sayings whose words are written without doubt, whose words are in doubt, and that are only heard */
  readonly takesByWords: LogisticModel;
  readonly takesInDoubt: LogisticModel;
  readonly takesBySound: LogisticModel;
}

export type Judged = keyof Calibration;
