/** A word as it is compared: no case, no accents, no punctuation. */
export const plainWord = (word: string): string =>
  word
    .normalize('NFKD')
    .replace(/[^\p{L}\p{N}]/gu, '')
    .toLowerCase();
