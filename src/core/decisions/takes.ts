import type { DecidedTakes } from '../detect/takes/decidedTakes.ts';
import { shareHalf } from '../time/range.ts';
import type { DecisionEvent } from './event.ts';

export type TakesStep = Extract<DecisionEvent, { type: 'takes' }>;

/** Groups with a further step made: what it is about replaces what was said about the same attempts before. */
export function withTakes(
  before: readonly DecidedTakes[],
  { about, groups }: Pick<TakesStep, 'about' | 'groups'>,
): DecidedTakes[] {
  const settled = [...about, ...groups.flatMap(({ attempts }) => attempts)];
  const meets = (group: DecidedTakes) => group.attempts.some((attempt) => settled.some((range) => shareHalf(attempt, range)));
  const kept = before.filter((group) => !meets(group));
  const given = before.filter(meets).flatMap((group) => group.about);
  return [...kept, ...groups.map((group, k) => ({ ...group, about: k === 0 ? [...given, ...settled] : group.attempts }))];
}
