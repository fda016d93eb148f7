import type { Range, Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { Beginnings } from './beginnings.ts';
import { MOST_OVER_SILENCE, USUAL_OVER_SILENCE } from './fitted.ts';

/** Words are judged so many at a time ... */
const STRETCH = 20;
/** ... with as many on either side of them. */
const BESIDE = 10;
/** Fewer say nothing. */
const ENOUGH = 20;
/** By chance one stretch in ten of another recording begins where it should: fewer in a row than this do not count. */
const LEAST_IN_A_ROW = 3;

/**
 * Places of words that stand elsewhere than they are said, as in a transcript of another recording, or of a version of this one in which
 * something had been cut: words of such a stretch begin over silence about as often as chance would have it, or behind the end. Nothing can be
 * told where there are few words or hardly any silence.
 * @param words in order
 * @param silences found by sound alone, in order and disjoint
 * @param left places of words that say nothing of where others stand: notes, and lines that a recogniser wrote into a silence
 */
export function strayWords(
  words: readonly Word[],
  silences: readonly Range[],
  duration: Seconds,
  left: ReadonlySet<number>,
): ReadonlySet<number> {
  const stretches = overSilenceByStretch(words, silences, duration, left);
  const isStray = grown(stretches);
  const stray = new Set<number>();
  if (!isStray.includes(true)) return stray;
  for (let k = 0; k < stretches.length; ) {
    let to = k;
    while (to < stretches.length && isStray[to] === isStray[k]) to++;
    if (isStray[k] || to - k < LEAST_IN_A_ROW)
      for (const { places } of stretches.slice(k, to)) for (const place of places) stray.add(place);
    k = to;
  }
  return stray;
}

/** From this share of the words on none belongs to the recording; else it is a part that was cut differently. */
const NEARLY_ALL = 0.9;

/** What is said of so many stray words, of all there are; nothing where there are none. */
export function strayNote(stray: number, words: number): string[] {
  if (stray === 0) return [];
  if (stray > NEARLY_ALL * words)
    return [
      `${stray} of ${words} words are not said where they stand, as if they were of another recording: nothing is found by them. Bring those of this one, or have it recognised.`,
    ];
  return [
    `${stray} of ${words} words are not said where they stand, as if something had been cut before they were written down: nothing is found by those.`,
  ];
}

/**
 * Stretches that are over silence, and not for those words alone that say nothing of others; and those beside them that are over silence for
 * whatever reason (thresholds with hysteresis).
 */
function grown(stretches: readonly Stretch[]): boolean[] {
  const isOver = stretches.map(({ withLeft = 0 }) => withLeft > MOST_OVER_SILENCE);
  const isStray = stretches.map(({ over = 0 }, k) => (isOver[k] as boolean) && over > USUAL_OVER_SILENCE);
  const seeds = [...stretches.keys()].filter((k) => isStray[k]);
  for (const seed of seeds)
    for (const by of [-1, 1]) for (let k = seed + by; isOver[k] && !isStray[k]; k += by) isStray[k] = true;
  return isStray;
}

/** Words that are judged together. */
interface Stretch {
  readonly places: readonly number[];
  /** how often they begin over silence, beside chance, wherever near they do so least; undefined where that cannot be told */
  readonly over: number | undefined;
  /** the same with what says nothing of others */
  readonly withLeft: number | undefined;
}

/** Words stretch by stretch, those left out with the ones before them; none where there are few. */
export function overSilenceByStretch(
  words: readonly Word[],
  silences: readonly Range[],
  duration: Seconds,
  left: ReadonlySet<number>,
): Stretch[] {
  const places = [...words.keys()].filter((k) => !left.has(k));
  if (places.length < ENOUGH || duration <= 0) return [];
  const beginnings = new Beginnings(silences, duration);
  const stretches: Stretch[] = [];
  for (let from = 0; from < places.length; from += STRETCH) {
    const first = Math.max(0, Math.min(from - BESIDE, places.length - STRETCH - 2 * BESIDE));
    const judged = places.slice(first, first + STRETCH + 2 * BESIDE).map((k) => words[k] as Word);
    const [begin, end] = [places[from] as number, places[from + STRETCH] ?? words.length];
    const around = [places[first] as number, places[first + judged.length - 1] as number] as const;
    // Behind the end nothing is said.
    const isBehind = judged.filter(({ start }) => start >= duration).length > judged.length / 2;
    stretches.push({
      places: Array.from({ length: end - begin }, (_, k) => begin + k),
      over: isBehind ? 1 : beginnings.leastOverSilence(judged),
      withLeft: isBehind ? 1 : beginnings.leastOverSilence(words.slice(around[0], around[1] + 1)),
    });
  }
  return stretches;
}
