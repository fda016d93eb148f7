/** Whether a word was begun that the other saying goes on with: `pu` for `pulled`. */
export const isBegun = (word: string, whole: string | undefined): boolean =>
  whole !== undefined && whole !== word && whole.startsWith(word);
