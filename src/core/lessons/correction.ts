import type { Proposal } from '../detect/detector.ts';
import { STRAYS } from './fitted.ts';
import { classesOf, type Lesson } from './lesson.ts';

/** Corrects a probability by what was taught about the classes of a proposal. */
export type Correct = (classes: readonly string[], probability: number) => number;

/** At and under this probability what was taught about stays without being asked about: what is left in costs little. */
export const STAYS_UNDER = 0.2;
/** Log-odds by which all lessons together may move a probability. */
const MOST = 4;
/** Examples of one class that count, at most. */
const MOST_EXAMPLES = 60;
const LEAST = 0.001;

/**
 * What lessons come to. The offset of a class is the most likely one when offsets are spread normally about those of the class above:
 * a logistic regression of one intercept with a Gaussian prior (MAP), so that one example moves little and no number of them moves
 * it without bound.
 */
export function correctionFrom(lessons: readonly Lesson[], strays: readonly number[] = STRAYS): Correct {
  if (lessons.length === 0) return (_, probability) => probability;
  const byClass = new Map<string, Lesson[]>();
  for (const lesson of lessons) byClass.set(lesson.about, [...(byClass.get(lesson.about) ?? []), lesson]);
  const offsets = new Map<string, number>([['', 0]]);
  const inDepth = [...byClass.keys()].sort((a, b) => depthOf(a) - depthOf(b));
  for (const name of inDepth) {
    const above = offsetFor(offsets, parentOf(name));
    const spread = strays[Math.min(strays.length - 1, depthOf(name))] as number;
    offsets.set(name, above + likeliestOffset(byClass.get(name) as Lesson[], above, spread));
  }
  return (classes, probability) => {
    const offset = offsetFor(offsets, classes.at(-1) ?? '');
    return offset === 0 ? probability : shifted(probability, Math.min(MOST, Math.max(-MOST, offset)));
  };
}

/** The offset of a class, or of the nearest above it that something was taught about. */
function offsetFor(offsets: ReadonlyMap<string, number>, name: string): number {
  for (let at = name; at !== ''; at = parentOf(at)) {
    const offset = offsets.get(at);
    if (offset !== undefined) return offset;
  }
  return 0;
}

const depthOf = (name: string): number => name.split('/').length - 1;
const parentOf = (name: string): string => name.slice(0, Math.max(0, name.lastIndexOf('/')));

function likeliestOffset(lessons: readonly Lesson[], above: number, spread: number): number {
  const total = lessons.reduce((sum, { right, wrong }) => sum + right + wrong, 0);
  const share = Math.min(1, MOST_EXAMPLES / Math.max(1e-9, total));
  const slope = (offset: number) =>
    lessons.reduce(
      (sum, { told, right, wrong }) => sum + share * (right - (right + wrong) * shifted(told, above + offset)),
      -offset / spread ** 2,
    );
  // The slope falls all the way: halving finds where it is nought.
  let [low, high] = [-2 * MOST, 2 * MOST];
  for (let step = 0; step < 40; step++) {
    const middle = (low + high) / 2;
    if (slope(middle) > 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

function shifted(probability: number, offset: number): number {
  const p = Math.min(1 - LEAST, Math.max(LEAST, probability));
  return 1 / (1 + Math.exp(-(Math.log(p / (1 - p)) + offset)));
}

/** What is told after lessons is told to a thousandth, as before. */
const rounded = (probability: number): number => Math.min(1 - LEAST, Math.max(LEAST, Math.round(probability * 1000) / 1000));

/** What is told of proposals with lessons; nothing where there are none. Asked at each step of a slider. */
export function toldWith(lessons: readonly Lesson[]): ((proposal: Proposal) => number) | undefined {
  if (lessons.length === 0) return undefined;
  const correct = correctionFrom(lessons);
  return (proposal) => rounded(correct(classesOf(proposal), proposal.confidence));
}
