import type { DecidedProposal } from '../decisions/matching.ts';
import type { AirSide } from '../decisions/replay.ts';
import { mergedLessons } from '../lessons/book.ts';
import { classesOf, type Lesson } from '../lessons/lesson.ts';
import type { Seconds } from '../time/range.ts';

/** A proposal that a person judged, by a verdict or by listening without objecting. */
export interface Example {
  readonly proposal: DecidedProposal;
  readonly right: boolean;
}

/**
 * What a person has judged so far. Who gives a cut more air says that it was not right as it was.
 * @param heard proposals that were listened to
 */
export function judgedExamples(proposals: readonly DecidedProposal[], heard: ReadonlySet<DecidedProposal>): Example[] {
  return proposals.flatMap((proposal): Example[] => {
    const { kind, verdict, decided } = proposal;
    if (kind === 'hand' || proposal.unheard) return [];
    // That words go is right, however much of the silence beside them goes too.
    if (decided && kind === 'pause' && isOpened(proposal)) return [{ proposal, right: false }];
    if (decided && verdict !== 'open') return [{ proposal, right: verdict === 'out' }];
    return !decided && verdict === 'out' && heard.has(proposal) ? [{ proposal, right: true }] : [];
  });
}

/** Shorter pulls are slips of the hand. */
export const LEAST_OPENED: Seconds = 0.015;

/** How much later the cut begins, and how much earlier it ends, than was proposed. */
export const openedBy = ({ proposed, taken }: DecidedProposal): Readonly<Record<AirSide, Seconds>> =>
  proposed ? { after: taken.start - proposed.start, before: proposed.end - taken.end } : { after: 0, before: 0 };

const isOpened = (proposal: DecidedProposal): boolean => {
  const { after, before } = openedBy(proposal);
  return Math.max(after, before) > LEAST_OPENED;
};

/** What examples say of probabilities, by class: each example counts in all classes it belongs to. */
export const lessonsOf = (examples: readonly Example[]): Lesson[] =>
  mergedLessons([
    examples.flatMap(({ proposal, right }) =>
      classesOf(proposal).map((about) => ({
        about,
        told: proposal.untaught ?? proposal.confidence,
        right: right ? 1 : 0,
        wrong: right ? 0 : 1,
      })),
    ),
  ]);
