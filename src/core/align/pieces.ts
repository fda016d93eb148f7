/** What begins a word, in networks whose tokens are pieces of words ... */
const BEGINS = '▁';
/** ... and what stands between words, in those that write letters. */
export const BETWEEN = [' ', '|'];

/**
 * The tokens that a word is written by: as few as there can be, in the letters as they are, else in small or capital ones. Signs that the
 * network does not write are left out.
 * @param numbers of the tokens of a network
 * @returns undefined where it cannot be written by them
 */
export function piecesOf(word: string, numbers: ReadonlyMap<string, number>): number[] | undefined {
  const bare = word.replaceAll(/[^\p{L}\p{M}\p{N}'’]/gu, '').replaceAll('’', "'");
  for (const text of [word, bare, bare.toLowerCase(), bare.toUpperCase(), bare.replaceAll("'", '').toLowerCase()]) {
    const pieces = text === '' ? undefined : fewest(`${BEGINS}${text}`, numbers);
    if (pieces) return pieces;
  }
  return undefined;
}

function fewest(text: string, numbers: ReadonlyMap<string, number>): number[] | undefined {
  const letters = [...text];
  const upTo: (number[] | undefined)[] = [[]];
  for (let end = 1; end <= letters.length; end++)
    for (let from = 0; from < end; from++) {
      const [before, known] = [upTo[from], upTo[end]];
      const number = numbers.get(letters.slice(from, end).join(''));
      if (before && number !== undefined && (!known || before.length + 1 < known.length)) upTo[end] = [...before, number];
    }
  return upTo[letters.length];
}

/**
 * Numbers of tokens, as a `tokens.txt` has them: one and its number a line. What stands between words counts as beginning them, where nothing
 * else does.
 */
export function readTokenNumbers(text: string): Map<string, number> {
  const numbers = new Map<string, number>();
  for (const line of text.split(/\r?\n/)) {
    const found = /^(.*?)[ \t](\d+)$/.exec(line);
    if (found) numbers.set(found[1] as string, Number(found[2]));
  }
  const between = BETWEEN.map((sign) => numbers.get(sign)).find((number) => number !== undefined);
  if (between !== undefined && ![...numbers.keys()].some((token) => token.startsWith(BEGINS))) numbers.set(BEGINS, between);
  return numbers;
}
