import type { Range } from '../../time/range.ts';

/** Attempts at a line as a person has laid them out, and what is to stay of them. */
export interface DecidedTakes {
  readonly attempts: readonly Range[];
  /** left out while nobody has chosen: the suggestion stays */
  readonly keep?: readonly Range[] | undefined;
  /** attempts that this settles: those found here are no group of their own any more */
  readonly about: readonly Range[];
}
