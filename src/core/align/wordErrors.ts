/**
 * How many of the words that were said were heard wrong, by the least that has to be replaced, put in and taken out (Levenshtein 1966), as a share
 * of what was said. Letters alone count.
 * @returns 0 where all is right; more than 1 where more was heard than was said
 */
export function wordErrors(said: readonly string[], heard: readonly string[]): number {
  const [wanted, found] = [said, heard].map((words) => words.map(plain).filter((word) => word !== '')) as [string[], string[]];
  if (wanted.length === 0) return found.length === 0 ? 0 : 1;
  let row = Array.from({ length: found.length + 1 }, (_, k) => k);
  for (const [i, word] of wanted.entries()) {
    const next = [i + 1];
    for (const [k, other] of found.entries())
      next.push(Math.min((row[k] as number) + (word === other ? 0 : 1), (row[k + 1] as number) + 1, (next[k] as number) + 1));
    row = next;
  }
  return (row.at(-1) as number) / wanted.length;
}

const plain = (word: string): string => word.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
