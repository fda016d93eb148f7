import { soundUnder, UNHEARD_CONFIDENCE } from '../../align/refine.ts';
import { strayWords } from '../../align/strayWords.ts';
import { SOFT_END, type TimingFit } from '../../align/timing.ts';
import { firstAfter, overlapOf, type Range, type Seconds, subtractOrdered, union } from '../../time/range.ts';
import { isSaid, type Word } from '../../transcript/word.ts';

/** An estimated word guards its middle half only. */
const ESTIMATED_GUARD = 0.25;
/** A recogniser less sure than this may have written what nobody said. */
const SURE_WORD = 0.7;
/** From here on it was there, or somebody has said so, whether the speech measure knows the voice or not. */
const CERTAIN_WORD = 0.95;
/** A word that ends no later than this behind a silence lasts until the next one starts, and no part of it is said there. */
const AT_ONCE: Seconds = 0.05;

/** So many words behind one another in one silence are no soft voice: a recogniser that hears nothing goes on writing. */
const UNHEARD_RUN = 3;
/** A word with less sound than this under it is unheard. */
const LEAST_SOUND: Seconds = 0.03;

/** Stretches that words hold against any pause, in order. */
export interface WordGuards {
  readonly all: readonly Range[];
  /** those of sure words with exact times: a pause may reach up to their very edges */
  readonly exact: readonly Range[];
}

/**
 * What each word holds. A certain word with an exact time holds all of it, heard or not: it may be soft. So does a sure one in
 * which somebody is heard. Where words last on into silences, neither holds more of one than may be soft. Any other word holds no more
 * than the sound under it, since its time is off by more than its edges are soft, or nobody said it: recognisers write words over
 * breaths and keys, and whole lines into silences.
 * @param silences found by sound alone, in order and disjoint
 * @param speaks whether the speech measure hears somebody in a stretch at all; undefined where it is not asked
 */
export function guardsOf(
  words: readonly Word[],
  { exact, endsExact }: TimingFit,
  silences: readonly Range[],
  speaks: (range: Range) => boolean | undefined,
): WordGuards {
  const [sure, unsure]: [Range[], Range[]] = [[], []];
  const unheard = unheardRuns(words, silences);
  for (const [k, word] of words.entries()) {
    const inset = word.timing === 'estimated' ? (word.end - word.start) * ESTIMATED_GUARD : 0;
    const range = { start: word.start + inset, end: word.end - inset };
    const spoken = speaks(word) ?? !unheard.has(k);
    if (exact && word.confidence >= SURE_WORD && (spoken || (word.confidence >= CERTAIN_WORD && !unheard.has(k))))
      sure.push(endsExact ? range : endedBySound(range, silences));
    else unsure.push(range);
  }
  const heard = subtractOrdered(union(unsure), silences);
  const exactGuards = union(sure);
  return { all: union([...exactGuards, ...heard]), exact: exactGuards };
}

/** A word without what it lasts on into a silence, but for what may be soft: recognisers let words last until the next one. */
function endedBySound(word: Range, silences: readonly Range[]): Range {
  const into = silences[firstAfter(silences.length, (k) => (silences[k] as Range).end, word.start)];
  if (!into || into.start <= word.start || into.end + AT_ONCE < word.end || into.start + SOFT_END >= word.end) return word;
  return { start: word.start, end: into.start + SOFT_END };
}

/**
 * Places of words that were written over silence. A certain word with an exact time is none, unless it stands among others in one silence:
 * it may be soft.
 * @param words as `wordsOnSound` gives them
 * @param silences found by sound alone, in order and disjoint
 */
export function wordsOverSilence(words: readonly Word[], timing: TimingFit, silences: readonly Range[]): number[] {
  const inRuns = unheardRuns(words, silences);
  const under = soundUnder(words, timing, silences);
  return [...words.keys()].filter((k) => {
    const mayBeSoft = timing.exact && (words[k] as Word).confidence >= CERTAIN_WORD;
    return under[k]?.isUnheard && (!mayBeSoft || inRuns.has(k));
  });
}

/**
 * Places of words that stand elsewhere than they are said. Notes say nothing of that, nor do lines that were written into a silence.
 * @param silences found by sound alone, in order and disjoint
 */
export function strayAmong(words: readonly Word[], silences: readonly Range[], duration: Seconds): ReadonlySet<number> {
  const left = new Set(unheardRuns(words, silences));
  for (const [k, { text }] of words.entries()) if (!isSaid(text)) left.add(k);
  const stray = strayWords(words, silences, duration, left);
  const unfound = [...words.keys()].filter((k) => isUnfound(words[k] as Word));
  return unfound.length < MANY_UNFOUND ? stray : new Set([...stray, ...unfound]);
}

/** Fewer words than this that were not found in the sound are misheard, and not those of another recording. */
const MANY_UNFOUND = 20;

/** Whether a word was looked for in the sound round its guessed place, and not found. */
const isUnfound = ({ timing, confidence }: Word): boolean => timing === 'estimated' && confidence <= UNHEARD_CONFIDENCE;

/** Places of words that stand behind one another in one silence, three and more of them. */
export function unheardRuns(words: readonly Word[], silences: readonly Range[]): ReadonlySet<number> {
  const unheard = new Set<number>();
  let [first, run]: [number, number[]] = [-1, []];
  const end = () => {
    if (run.length >= UNHEARD_RUN) for (const k of run) unheard.add(k);
    run = [];
  };
  for (const [k, word] of words.entries()) {
    const at = firstAfter(silences.length, (n) => (silences[n] as Range).end, word.start);
    const silence = silences[at];
    const sound = silence ? word.end - word.start - overlapOf(word, silence) : Number.POSITIVE_INFINITY;
    if (sound >= LEAST_SOUND || at !== first) end();
    first = at;
    if (sound < LEAST_SOUND) run.push(k);
  }
  end();
  return unheard;
}
