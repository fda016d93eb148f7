import { memoize } from './memoize.ts';

/** A word as it is compared: no case, no accents, no punctuation. */
export const plainWord = memoize((word) =>
  word
    .normalize('NFKD')
    .replace(/[^\p{L}\p{N}]/gu, '')
    .toLowerCase(),
);
