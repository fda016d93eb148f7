import { type Range, type Seconds, subtract, totalLength } from '../time/range.ts';
import { isSaid, type Word } from '../transcript/word.ts';
import { BESIDE_KNOWN, type OpenRun, type PlacedRun, placedWords } from './openRuns.ts';

/** Words on either side of a seam that are looked for once more, and as many beyond them that tell where those end. */
const AT_SEAM = 3;
const BEYOND = 1;
/** Nobody guesses a word on the wrong side of a longer pause. */
const LONGEST_SEAM: Seconds = 5;
/** A pause in which less is heard holds no word. */
const LEAST_SOUND: Seconds = 0.15;

/**
 * Seams between runs that were found one behind another: which words stand in which run was guessed, and one that is said on the other side of
 * the pause was found where it is not. The words on both sides of it, with the sound of both, where in the pause something else is heard.
 * @param silences in order and disjoint
 */
export function seamsOf(
  words: readonly Word[],
  placings: readonly PlacedRun[],
  duration: Seconds,
  silences: readonly Range[] = [],
): OpenRun[] {
  const found = placings.filter(({ placing }) => typeof placing === 'object').sort((a, b) => firstOf(a) - firstOf(b));
  const placed = placedWords(words, found);
  const isFound = (k: number) => (placed[k] as Word).timing === 'measured';
  return found.flatMap((left, k) => {
    const right = found[k + 1];
    if (!right || isSaidBetween(words, left.run.open.at(-1) as number, right.run.open[0] as number)) return [];
    const before = left.run.open.slice(-AT_SEAM - BEYOND);
    const after = right.run.open.slice(0, AT_SEAM + BEYOND);
    const [last, first] = [before.findLast(isFound), after.find(isFound)];
    const [begin, end] = [placed[before[0] as number] as Word, placed[after.at(-1) as number] as Word];
    const pause = {
      start: last === undefined ? begin.start : (placed[last] as Word).end,
      end: first === undefined ? end.end : (placed[first] as Word).start,
    };
    if (pause.end - pause.start > LONGEST_SEAM) return [];
    if (pause.end - pause.start >= LEAST_SOUND && totalLength(subtract([pause], silences)) < LEAST_SOUND) return [];
    const places = [...before, ...after];
    const open = [...before.slice(-AT_SEAM), ...after.slice(0, AT_SEAM)];
    const sound = { start: Math.max(0, begin.start - BESIDE_KNOWN), end: Math.min(duration, end.end + BESIDE_KNOWN) };
    return [{ places, open, sound }];
  });
}

const firstOf = ({ run }: PlacedRun): number => run.open[0] ?? 0;

function isSaidBetween(words: readonly Word[], before: number, after: number): boolean {
  for (let k = before + 1; k < after; k++) if (isSaid((words[k] as Word).text)) return true;
  return false;
}

/** Whether the words of a seam are as much like the sound, or more, as they were on their own sides. */
export function isSeamBetter({ run, placing }: PlacedRun, placings: readonly PlacedRun[]): boolean {
  const likes = (of: PlacedRun, k: number): number => {
    const place = typeof of.placing === 'object' ? of.placing[of.run.places.indexOf(k)] : undefined;
    return place?.isLike ? 1 : 0;
  };
  const before = run.open.reduce((sum, k) => {
    const own = placings.find((one) => one.run.open.includes(k));
    return sum + (own ? likes(own, k) : 0);
  }, 0);
  const now = run.open.reduce((sum, k) => sum + likes({ run, placing }, k), 0);
  return typeof placing === 'object' && now >= before;
}
