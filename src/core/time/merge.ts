import type { Range } from './range.ts';

const inOrder = (a: Range, b: Range): number => a.start - b.start || a.end - b.end;

/**
 * Lists of ranges, each in order of start and then end, as one in that order; of equal ones those of an earlier list come
 * first. A list that is a little out of order is put right. Linear in all: sorting what is nearly sorted takes three times
 * as long, and sliders do it at each step.
 */
export function mergeInOrder<T extends Range>(lists: readonly (readonly T[])[]): T[] {
  // From the last on: the first list is by far the longest, and is gone through once only.
  return lists.map(ordered).reduceRight<T[]>((all, list) => (all.length === 0 ? [...list] : merge(list, all)), []);
}

function ordered<T extends Range>(list: readonly T[]): readonly T[] {
  for (let k = 1; k < list.length; k++) if (inOrder(list[k - 1] as T, list[k] as T) > 0) return [...list].sort(inOrder);
  return list;
}

function merge<T extends Range>(left: readonly T[], right: T[]): T[] {
  if (left.length === 0) return right;
  const merged: T[] = [];
  let l = 0;
  for (const one of right) {
    while (l < left.length && inOrder(left[l] as T, one) <= 0) merged.push(left[l++] as T);
    merged.push(one);
  }
  while (l < left.length) merged.push(left[l++] as T);
  return merged;
}
