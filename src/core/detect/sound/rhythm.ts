import { quantile } from '../../numbers/quantile.ts';
import type { Seconds } from '../../time/range.ts';
import type { Settings } from '../settings.ts';
import { followsSentence, type PreparedPauses, silencesOf } from './pauses.ts';

/** How a speaker pauses. */
export interface Rhythm {
  /** lengths of all silences between words, ascending */
  readonly lengths: readonly Seconds[];
  /** whether there are enough of them to say how this speaker pauses; otherwise usual values are given */
  readonly known: boolean;
  /** median silence inside a sentence, and after one */
  readonly inside: Seconds;
  readonly sentence: Seconds;
}

/** Shorter silences are closures inside words; longer ones are no rhythm any more. */
const LEAST: Seconds = 0.18;
const MOST: Seconds = 4;
/** Fewer silences than this say nothing: then usual values are taken. */
const ENOUGH = 6;
const USUAL = { inside: 0.25, sentence: 0.7 };

export function rhythmOf(prepared: PreparedPauses, settings: Settings): Rhythm {
  const all = silencesOf(prepared, settings, LEAST).filter(
    ({ start, end }) => start > 0 && end < prepared.duration && end - start <= MOST,
  );
  const lengths = all.map(({ start, end }) => end - start).sort((a, b) => a - b);
  if (lengths.length < ENOUGH) return { lengths, known: false, ...USUAL };
  const after = all.filter(({ start }) => followsSentence(prepared, start)).map(({ start, end }) => end - start);
  if (after.length >= ENOUGH && lengths.length - after.length >= ENOUGH) {
    const within = all.filter(({ start }) => !followsSentence(prepared, start)).map(({ start, end }) => end - start);
    return { lengths, known: true, inside: quantile(within, 0.5), sentence: quantile(after, 0.5) };
  }
  // Without punctuation the longer third is taken for ends of sentences.
  return { lengths, known: true, inside: quantile(lengths, 0.33), sentence: quantile(lengths, 0.83) };
}
