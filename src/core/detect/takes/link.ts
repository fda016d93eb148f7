import type { Range } from '../../time/range.ts';

/** Two sayings of one line, and who says so. */
export interface Link {
  readonly left: Range;
  readonly right: Range;
  /** words that they share, or as many as would take that long to say, less half of those that they do not */
  readonly worth: number;
  /** by their words: how many they share, and which share of the whole */
  readonly words?: { readonly matches: number; readonly share: number } | undefined;
  /** by ear: see echoes.ts */
  readonly sound?: { readonly matched: number; readonly closeness: number } | undefined;
}
