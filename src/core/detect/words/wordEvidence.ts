import { spokenWeight } from '../../align/weight.ts';
import { type HesitationCurve, hesitationIn } from '../../curves/hesitation.ts';
import { isSaidOverOthers } from '../../speakers/turns.ts';
import { firstAfter, type Range } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import type { Spoken } from './spoken.ts';

/** Words nearer to one another than this touch. */
const TOUCHING = 0.03;
export const hundredth = (value: number): number => Math.round(value * 100) / 100;

/**
 * What holds for any words that may go, whatever they are: how sure the recogniser was of them, how long they take beside what
 * they say, whether they touch their neighbours, how exact their times are, and how much they sound like hesitating.
 */
export function saidEvidence(
  { words, sound, clean }: Spoken,
  first: number,
  count: number,
  hesitation: readonly HesitationCurve[] | undefined,
): Record<string, number> {
  const [from, to] = [words[first] as Word, words[first + count - 1] as Word];
  let sure = 1;
  let weight = 0;
  for (let k = first; k < first + count; k++) {
    sure = Math.min(sure, (words[k] as Word).confidence);
    weight += spokenWeight((words[k] as Word).text);
  }
  const [before, after] = [words[first - 1], words[first + count]];
  const touches = (before && from.start - before.end < TOUCHING ? 1 : 0) + (after && after.start - to.end < TOUCHING ? 1 : 0);
  const inexact = sound().timing.exact ? 0 : 1;
  const like = likeness(hesitation, from.start, to.end);
  const drawnOut = Math.max(-1, Math.min(1.5, Math.log(Math.max(0.02, to.end - from.start) / Math.max(0.05, weight))));
  return {
    sure: hundredth(sure),
    seconds: hundredth(Math.min(1.5, to.end - from.start)),
    drawnOut: hundredth(drawnOut),
    // A word that is far too long was perhaps another one; where the transcript is free of doubt its length says nothing.
    drawnInDoubt: hundredth((1 - clean) * drawnOut),
    clean,
    touches,
    inexact,
    inexactTouches: inexact * touches,
    ...like,
    // Where the transcript is free of doubt, a hesitation that is written was said, whatever it sounds like, and heard or not.
    cleanLike: hundredth(clean * like.soundsLike),
    cleanUnheard: hundredth(clean * (1 - like.listened)),
  };
}

interface Judged {
  readonly confidence: number;
  readonly evidence: Readonly<Record<string, number>>;
}

/** What is said over somebody else's words cannot go without them: it is asked about, however sure it is what it is. */
const MOST_OVER_OTHERS = 0.5;

/** How sure it is that words may go, with what else speaks there: never more than a question where somebody else is cut with them. */
export function withOthers<T extends Judged>(judged: T, { words }: Spoken, first: number, count: number): T {
  if (judged.confidence <= MOST_OVER_OTHERS || !isSaidOverOthers(words, first, count)) return judged;
  return { ...judged, confidence: MOST_OVER_OTHERS, evidence: { ...judged.evidence, overOthers: 1 } };
}

/** Where a word stands inside a line that was timed as a whole is guessed: what is cut there may be its neighbours. */
const MOST_GUESSED = 0.5;
/** A word that begins or ends this near to a silence is where it is said. */
const AT_SILENCE = 0.05;

/** What is judged by times that are guessed: never more than a question. */
export const byGuess = <T extends Judged>(judged: T): T =>
  judged.confidence <= MOST_GUESSED
    ? judged
    : { ...judged, confidence: MOST_GUESSED, evidence: { ...judged.evidence, guessedTimes: 1 } };

/** How sure it is that words may go, never more than a question where their times are guessed, and no silence on either side tells them. */
export function withGuessedTimes<T extends Judged>(judged: T, { words, sound }: Spoken, first: number, count: number): T {
  const own = words.slice(first, first + count);
  if (own.every(({ timing }) => timing === 'measured')) return judged;
  const [from, to] = [(own[0] as Word).start, (own.at(-1) as Word).end];
  const { silences } = sound();
  const before = silences[firstAfter(silences.length, (k) => (silences[k] as Range).end, from - AT_SILENCE)];
  const behind = silences[firstAfter(silences.length, (k) => (silences[k] as Range).start, to - AT_SILENCE)];
  const isKnown = before && behind && before.end <= from + AT_SILENCE && behind.start <= to + AT_SILENCE;
  return isKnown ? judged : byGuess(judged);
}

/** From these log-odds on a sound is more like hesitating than most that are none. */
const MUCH = -3;

type Likeness = Readonly<Record<'listened' | 'soundsLike' | 'muchLike', number>>;

/** Log-odds that a stretch is a hesitation, on the track that sounds the most like one. */
export const hesitationScore = (hesitation: readonly HesitationCurve[], start: number, end: number): number =>
  Math.max(...hesitation.map((curve) => hesitationIn(curve, start, end)));

/** How much a stretch sounds like hesitating, as evidence; nothing where that is not measured. */
export function likeness(hesitation: readonly HesitationCurve[] | undefined, start: number, end: number): Likeness {
  if (!hesitation) return { listened: 0, soundsLike: 0, muchLike: 0 };
  const score = hesitationScore(hesitation, start, end);
  return { listened: 1, soundsLike: hundredth(score), muchLike: hundredth(Math.max(0, score - MUCH)) };
}
