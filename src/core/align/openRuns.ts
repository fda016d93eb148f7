import type { Range, Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';

/** Words whose times are only estimated, between two that were heard, with those two: what is known of either side helps. */
export interface OpenRun {
  /** the first of the words that are put under sound, and the first behind them, among all */
  readonly from: number;
  readonly to: number;
  /** words among these that are estimated */
  readonly open: readonly number[];
  readonly sound: Range;
}

/** Sound on either side of what is looked at. */
const ROOM: Seconds = 0.15;

/**
 * Runs of words whose times are estimated.
 * @param words in order of time
 * @param longest seconds of sound that can be gone through at once; longer runs are left out
 */
export function openRuns(words: readonly Word[], duration: Seconds, longest: Seconds): OpenRun[] {
  const runs: OpenRun[] = [];
  const isOpen = (k: number) => words[k]?.timing === 'estimated';
  for (let k = 0; k < words.length; k++) {
    if (!isOpen(k)) continue;
    let end = k;
    while (isOpen(end)) end++;
    const [from, to] = [Math.max(0, k - 1), Math.min(words.length, end + 1)];
    const [before, after] = [words[k - 1], words[end]];
    const sound = {
      start: Math.max(0, (before?.start ?? 0) - ROOM),
      end: Math.min(duration, after ? after.end + ROOM : duration),
    };
    const open = Array.from({ length: end - k }, (_, n) => k + n);
    if (sound.end - sound.start <= longest) runs.push({ from, to, open, sound });
    k = end;
  }
  return runs;
}

/**
 * Words with the times at which a run of them was found.
 * @param places of all its words, in seconds of the recording
 * @param error how far they may be off
 */
export function withPlaces(words: readonly Word[], { from, open }: OpenRun, places: readonly Range[], error: Seconds): Word[] {
  const placed = [...words];
  const millis = (at: Seconds) => Math.round(at * 1000) / 1000;
  for (const k of open) {
    const { start, end } = places[k - from] as Range;
    placed[k] = { ...(words[k] as Word), start: millis(start), end: millis(end), timing: 'measured', error };
  }
  return placed;
}
