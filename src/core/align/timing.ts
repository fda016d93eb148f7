import { quantile } from '../numbers/quantile.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';

/** How well the times of a transcript agree with the sound. */
export interface TimingFit {
  /** whether word edges can be taken at their word */
  readonly exact: boolean;
  /** whether words end where they are heard to; they may start exactly, and last on into silences */
  readonly endsExact: boolean;
  /** seconds that four in five word edges beside silences lie within of the sound's own edge */
  readonly error: Seconds;
}

export const EXACT_TIMES: TimingFit = { exact: true, endsExact: true, error: 0 };

/** An edge of a word is compared with the edge of sound nearest to it, up to this far away. */
const COMPARED_WITHIN: Seconds = 0.6;
/** Fewer edges than this say nothing. */
const ENOUGH = 12;
/** Edges this near are the same: a level sample looks 15 ms to either side, and a plosive starts before it is heard. */
const SAME: Seconds = 0.035;
/**
 * Share of word starts beside silences that agree with the sound. Of times taken from the sound itself 0.72 and more did in the
 * least clear of eight recordings, of times with deviations added 0.49 and less. Set by hand between the two.
 */
const LEAST_AGREEING = 0.6;
/** Of exact starts 0 to 5 % reached into a silence (15 % where two microphones bleed), of others 17 to 38 %. */
const MOST_REACHING = 0.08;
/** The last of a word may sink under the room: an end that reaches no further than this into a silence is one that is heard. */
export const SOFT_END: Seconds = 0.15;
/** A silence this long would show it. */
const SHOWS_LASTING: Seconds = 0.25;
/** Of exact ends 0 to 4 % reached further, in 34 recordings, of ends that were stretched 7 % and more. Set by hand between the two. */
const MOST_LASTING = 0.055;
const ERROR_QUANTILE = 0.8;

/**
 * Compares words with silences that are found by sound alone. Starts decide whether times are exact, since onsets are sharp; an
 * ending is soft, and may sink under the room or go on as an echo.
 * @param silences in order
 */
export function timingFit(silences: readonly Range[], words: readonly Word[], duration: Seconds): TimingFit {
  const starts: Seconds[] = [];
  const ends: Seconds[] = [];
  const byEnd = [...words].sort((a, b) => a.end - b.end);
  for (const { start, end } of silences) {
    const after = end < duration ? nearest(words, (word) => word.start, end) : undefined;
    const before = start > 0 ? nearest(byEnd, (word) => word.end, start) : undefined;
    if (after !== undefined) starts.push(after);
    if (before !== undefined) ends.push(before);
  }
  if (starts.length + ends.length < ENOUGH) return EXACT_TIMES;
  const error = quantile([...starts, ...ends].map(Math.abs), ERROR_QUANTILE);
  return {
    exact: agree(starts, 0) || (!agree(starts, quantile(starts, 0.5)) && reachesRarely(starts)),
    endsExact: lastRarely(silences, words),
    error,
  };
}

/** Whether hardly any word lasts on into the silence behind it for longer than its end may be soft. @param words in order of their starts */
function lastRarely(silences: readonly Range[], words: readonly Word[]): boolean {
  const lasting = silences.flatMap(({ start, end }) => {
    const last = words[firstAfter(words.length, (k) => (words[k] as Word).start, start) - 1];
    return last && end - start > SHOWS_LASTING ? [Math.min(last.end, end) - start > SOFT_END] : [];
  });
  return lasting.filter(Boolean).length <= MOST_LASTING * lasting.length;
}

/** Whether most starts lie at one distance from the sound's. */
const agree = (starts: readonly Seconds[], distance: Seconds): boolean =>
  starts.filter((apart) => Math.abs(apart - distance) <= SAME).length >= LEAST_AGREEING * starts.length;

/**
 * Where the sound itself is no witness, as under music, its edges scatter about those of words; but words with exact times do not
 * start in what is silent.
 */
const reachesRarely = (starts: readonly Seconds[]): boolean =>
  starts.filter((apart) => apart < -SAME).length <= MOST_REACHING * starts.length;

function nearest(words: readonly Word[], edgeOf: (word: Word) => Seconds, at: Seconds): Seconds | undefined {
  const next = firstAfter(words.length, (k) => edgeOf(words[k] as Word), at);
  const distances = [next - 1, next].flatMap((k) => (words[k] ? [edgeOf(words[k] as Word) - at] : []));
  const best = distances.sort((a, b) => Math.abs(a) - Math.abs(b))[0];
  return best !== undefined && Math.abs(best) <= COMPARED_WITHIN ? best : undefined;
}
