import { type Evidence, probabilityOf } from '../detect/calibration/logistic.ts';
import type { Seconds } from '../time/range.ts';
import { isHeld } from '../transcript/held.ts';
import { LEAST_PLACED, LEAST_TOGETHER, PLACED } from './fittedPlaces.ts';
import type { Placing } from './openRuns.ts';
import { spokenWeight } from './weight.ts';
import type { ChainPlace } from './wordChain.ts';

/** What tells whether a word is said where it was found. */
export const PLACE_EVIDENCE = ['like', 'likeBeside', 'together', 'long', 'short', 'sounds', 'unknown', 'outer', 'held'] as const;

/** Of so many words at least one is told where they are said. */
const SEVERAL = 3;
/** Likeness is told in these. */
const LIKENESS = 10;

/**
 * What speaks for and against each of the places at which words were found: how the sound is like it, its neighbours and all of them, whether it
 * is far too long or short for what it says, and sounds beside it that no word is.
 */
export function placeEvidence(places: readonly ChainPlace[], texts: readonly string[]): Evidence[] {
  const together = likenessTogether(places) / LIKENESS;
  return places.map(({ start, end, likeness, sounds, isKnown }, k) => {
    const isHesitation = isHeld(texts[k] as string);
    const drawnOut = Math.log(Math.max(0.02, end - start) / spokenWeight(texts[k] as string));
    const beside = Math.min(places[k - 1]?.likeness ?? 0, places[k + 1]?.likeness ?? 0);
    return {
      like: likeness / LIKENESS,
      likeBeside: beside / LIKENESS,
      together,
      long: isHesitation ? 0 : Math.max(0, drawnOut),
      short: Math.max(0, -drawnOut),
      sounds,
      unknown: isKnown ? 0 : 1,
      outer: k === 0 || k === places.length - 1 ? 1 : 0,
      held: isHesitation ? 1 : 0,
    };
  });
}

/** How the sound is like all of the words, frame by frame. */
export function likenessTogether(places: readonly ChainPlace[]): number {
  const seconds = places.reduce((sum, { start, end }) => sum + end - start, 0);
  return places.reduce((sum, { start, end, likeness }) => sum + likeness * (end - start), 0) / Math.max(0.01, seconds);
}

/**
 * Which of the places at which words were found are to be relied on, and whether these words are said there at all.
 * @param error how far the edges of one may be off that is
 */
export function judgedPlaces(places: readonly ChainPlace[], texts: readonly string[], error: Seconds): Placing {
  if (likenessTogether(places) < LEAST_TOGETHER) return 'not said';
  const isLike = placeEvidence(places, texts).map((evidence) => probabilityOf(PLACED, evidence) >= LEAST_PLACED);
  if (places.length >= SEVERAL && !isLike.includes(true)) return 'not said';
  return places.map(({ start, end }, k) => ({ start, end, error, isLike: isLike[k] as boolean }));
}
