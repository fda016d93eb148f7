import type { DocketGroup } from './docket.ts';

/**
 * The list as it is shown next: groups that are in sight stay in the order in which they stand, those that are gone leave, and the
 * others follow in their new order. What was put off for later comes last.
 * @param shown keys in the order in which they stand
 * @param inSight how many of those must not move
 */
export function standingOrder(
  shown: readonly string[],
  fresh: readonly DocketGroup[],
  inSight: number,
  putOff: ReadonlySet<string>,
): DocketGroup[] {
  const byKey = new Map(fresh.map((group) => [group.key, group]));
  const held = shown.slice(0, inSight).flatMap((key) => byKey.get(key) ?? []);
  const standing = new Set(held);
  const all = [...held, ...fresh.filter((group) => !standing.has(group))];
  const isPutOff = ({ entries }: DocketGroup) => entries.every(({ id }) => putOff.has(id));
  return [...all.filter((group) => !isPutOff(group)), ...all.filter(isPutOff)];
}
