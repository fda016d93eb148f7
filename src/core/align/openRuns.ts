import type { Range, Seconds } from '../time/range.ts';
import { isSaid, type Word } from '../transcript/word.ts';
import { SURE_OF_PLACED } from './fittedPlaces.ts';
import { UNHEARD_CONFIDENCE } from './refine.ts';

/** Words whose times are only estimated, with what is known on either side of them. */
export interface OpenRun {
  /** places of the words that are looked for, among all: those, and what stands beside them */
  readonly places: readonly number[];
  /** those of these whose times are only estimated, one behind another */
  readonly open: readonly number[];
  readonly sound: Range;
}

/** Words of a run, and what came of looking for them. */
export interface PlacedRun {
  readonly run: OpenRun;
  readonly placing: Placing;
}

/** Where a word was found. */
export interface FoundPlace extends Range {
  /** by how much its edges may be off */
  readonly error: Seconds;
  /** whether the sound is like the word. One that is not is said elsewhere, or in another way than it is written */
  readonly isLike: boolean;
}

/** What came of looking for words in a stretch of sound: where each is, or that these are not what is said there. */
export type Placing = readonly FoundPlace[] | 'not said';

/** Sound on either side of words whose times are known ... */
export const BESIDE_KNOWN: Seconds = 0.15;
/** ... and of those that are estimated. A longer pause parts them from the next ones. */
const BESIDE_ESTIMATED: Seconds = 0.3;
/** What is heard in a pause this long is no word, but may sound like one. */
const PARTING_PAUSE: Seconds = 1;
/** Faster than this nobody speaks: more words a second are a mistake, or an attack. */
const MOST_A_SECOND = 12;

/**
 * Runs of words whose times are estimated, of notes and mere signs nothing.
 * @param words in order of time
 * @param longest seconds of sound that are gone through at once. Longer runs are parted, at pauses where there are any; a word lost in far more sound is left out
 */
export function openRuns(words: readonly Word[], duration: Seconds, longest: Seconds): OpenRun[] {
  const said = [...words.keys()].filter((k) => isSaid((words[k] as Word).text));
  const isOpen = (n: number) => (words[said[n] as number] as Word | undefined)?.timing === 'estimated';
  const runs: OpenRun[] = [];
  for (let n = 0; n < said.length; n++) {
    if (!isOpen(n)) continue;
    let end = n;
    while (isOpen(end)) end++;
    for (let first = n; first < end; ) {
      const to = endOfPiece(words, said, first, end, longest);
      runs.push(runOf(words, said, first, to, duration));
      first = to;
    }
    n = end;
  }
  return runs.filter((run) => isSpeakable(run) && run.sound.end - run.sound.start <= 2 * longest);
}

const isSpeakable = ({ places, sound }: OpenRun): boolean => places.length <= MOST_A_SECOND * (sound.end - sound.start);

/** The two halves of a run that was not found as a whole, parted where the pause is longest; none where it is one word. */
export function halvesOf(words: readonly Word[], { open }: OpenRun, duration: Seconds): OpenRun[] {
  if (open.length < 2) return [];
  const middle = longestPause(words, open, Math.ceil(open.length / 4), Math.floor((3 * open.length) / 4));
  const halves = [runOf(words, open, 0, middle, duration), runOf(words, open, middle, open.length, duration)];
  return halves.filter(isSpeakable);
}

/** How many of the words from `first` on are looked for together. */
function endOfPiece(words: readonly Word[], said: readonly number[], first: number, end: number, longest: Seconds): number {
  const { start } = words[said[first] as number] as Word;
  let to = first + 1;
  for (; to < end && (words[said[to] as number] as Word).end - start <= longest; to++)
    if (pauseBefore(words, said, to) >= PARTING_PAUSE) return to;
  return to === end ? end : longestPause(words, said, Math.ceil((first + to) / 2), to);
}

/** Before which word of `[from, to]` the pause is longest, the last of those that are as long. */
function longestPause(words: readonly Word[], said: readonly number[], from: number, to: number): number {
  let best = Math.max(1, from);
  for (let n = best; n <= to && n < said.length; n++) if (pauseBefore(words, said, n) >= pauseBefore(words, said, best)) best = n;
  return best;
}

const pauseBefore = (words: readonly Word[], said: readonly number[], n: number): Seconds =>
  Math.max(0, (words[said[n] as number] as Word).start - (words[said[n - 1] as number] as Word).end);

/** Words `[first, to)` of those that are said, with one on either side, unless a pause parts them from it. */
function runOf(words: readonly Word[], said: readonly number[], first: number, to: number, duration: Seconds): OpenRun {
  const wordAt = (n: number) => words[said[n] as number] as Word | undefined;
  const [before, after] = [wordAt(first - 1), wordAt(to)];
  const isBeside = (one: Word | undefined, n: number): one is Word =>
    one !== undefined && (one.timing === 'measured' || pauseBefore(words, said, n) < BESIDE_ESTIMATED);
  const own = said.slice(first, to);
  const [from, last] = [wordAt(first) as Word, wordAt(to - 1) as Word];
  const withBefore = isBeside(before, first);
  const withAfter = isBeside(after, to);
  const room = ({ timing }: Word) => (timing === 'measured' ? BESIDE_KNOWN : BESIDE_ESTIMATED);
  const [begin, end] = [withBefore ? before : from, withAfter ? after : last];
  return {
    places: [...(withBefore ? [said[first - 1] as number] : []), ...own, ...(withAfter ? [said[to] as number] : [])],
    open: own,
    sound: { start: Math.max(0, begin.start - room(begin)), end: Math.min(duration, end.end + room(end)) },
  };
}

/**
 * Words with the times at which runs of them were found. Of those that are unlike the sound the times are still estimated; those that are not
 * said there keep theirs, and are hardly likely.
 * @param placings what came of each run, in seconds of the recording
 */
export const withPlaces = (words: readonly Word[], placings: readonly PlacedRun[]): Word[] =>
  placedWords(words, placings).sort((a, b) => a.start - b.start || a.end - b.end);

/** The same in the order in which they were given. */
export function placedWords(words: readonly Word[], placings: readonly PlacedRun[]): Word[] {
  const placed = [...words];
  for (const { run, placing } of placings) {
    for (const k of run.open) {
      const word = words[k] as Word;
      if (placing === 'not said') {
        placed[k] = { ...word, confidence: Math.min(word.confidence, UNHEARD_CONFIDENCE) };
        continue;
      }
      const { start, end, error, isLike } = placing[run.places.indexOf(k)] as FoundPlace;
      const times = { start: millis(start), end: millis(end) };
      placed[k] = isLike
        ? { ...word, ...times, confidence: Math.max(SURE_OF_PLACED, word.confidence), timing: 'measured', error }
        : { ...word, ...times };
    }
  }
  return placed;
}

/** Where a word was found, if it was: what was looked for last counts. */
export function placeIn(runs: readonly PlacedRun[], word: number): FoundPlace | undefined {
  const last = runs.findLast(({ run }) => run.open.includes(word));
  return last && last.placing !== 'not said' ? last.placing[last.run.places.indexOf(word)] : undefined;
}

const millis = (at: Seconds): Seconds => Math.round(at * 1000) / 1000;
