import { plainWord } from '../transcript/plainWord.ts';
import { matchWords } from './matching.ts';

/**
 * How many words were heard wrong, lost or added, by the alignment of what was said and what was heard, as a share of what was said. Letters alone
 * count.
 * @returns 0 where all is right; more than 1 where more was heard than was said
 */
export function wordErrors(said: readonly string[], heard: readonly string[]): number {
  const [wanted, found] = [said, heard].map((words) => words.map(plainWord).filter((word) => word !== '')) as [
    string[],
    string[],
  ];
  if (wanted.length === 0) return found.length === 0 ? 0 : 1;
  const right = matchWords(wanted, found).filter((match) => match >= 0).length;
  return (Math.max(wanted.length, found.length) - right) / wanted.length;
}
