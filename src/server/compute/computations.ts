import { makeSnapshot } from '../episodes/makeSnapshot.ts';
import { takeImport } from '../episodes/wordImports.ts';
import { answerQuestion } from './answers.ts';

/** What is computed apart, each about one thing by its name in the database. */
export const COMPUTATIONS = {
  /** the cut of an episode */
  cut: makeSnapshot,
  /** words that somebody brought */
  words: takeImport,
  /** something that somebody waits for */
  question: answerQuestion,
} as const satisfies Record<string, (id: string) => Promise<void>>;

export type Computation = keyof typeof COMPUTATIONS;
/** Does a computation, wherever that is. @throws BeyondBounds */
export type Compute = (what: Computation, id: string) => Promise<void>;

/** Right here: for tests, and for nobody whose process others wait for. */
export const computeHere: Compute = (what, id) => COMPUTATIONS[what](id);

/** A computation took more time or memory than it may; `message` says which, fit to show. */
export class BeyondBounds extends Error {}
