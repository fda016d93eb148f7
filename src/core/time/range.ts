/** Seconds on a recording's own clock, as float64. Frames are another type: see rate.ts. */
export type Seconds = number;

/** A half-open stretch of time `[start, end)` in seconds. */
export interface Range {
  readonly start: Seconds;
  readonly end: Seconds;
}

const lengthOf = (range: Range): Seconds => Math.max(0, range.end - range.start);

/** Seconds that two ranges share; 0 when they only touch. */
export const overlapOf = (a: Range, b: Range): Seconds => Math.max(0, Math.min(a.end, b.end) - Math.max(a.start, b.start));

/** How much of a range lies in others, which are in order and disjoint. */
export function overlapWith(ordered: readonly Range[], range: Range): Seconds {
  let sum = 0;
  for (let k = firstAfter(ordered.length, (n) => (ordered[n] as Range).end, range.start); k < ordered.length; k++) {
    if ((ordered[k] as Range).start >= range.end) break;
    sum += overlapOf(ordered[k] as Range, range);
  }
  return sum;
}

/** Whether two ranges share half of the shorter one: the same thing, laid a little otherwise. */
export const shareHalf = (a: Range, b: Range): boolean => overlapOf(a, b) >= Math.min(a.end - a.start, b.end - b.start) / 2;

/** Ranges in order, none empty, touching or overlapping ones merged. */
export function union(ranges: readonly Range[]): Range[] {
  const merged: { start: number; end: number }[] = [];
  let last = { start: 0, end: Number.NEGATIVE_INFINITY };
  for (const range of inOrder(ranges)) {
    if (range.end <= range.start) continue;
    if (range.start <= last.end) last.end = Math.max(last.end, range.end);
    else {
      last = { start: range.start, end: range.end };
      merged.push(last);
    }
  }
  return merged;
}

/** Most lists are in order already: they need no copy. */
function inOrder(ranges: readonly Range[]): readonly Range[] {
  for (let k = 1; k < ranges.length; k++)
    if ((ranges[k] as Range).start < (ranges[k - 1] as Range).start) return [...ranges].sort((a, b) => a.start - b.start);
  return ranges;
}

/** What is left of `from` when `taken` is removed. Both may be unordered; the answer is ordered and disjoint. */
export const subtract = (from: readonly Range[], taken: readonly Range[]): Range[] => subtractOrdered(union(from), union(taken));

/** The same for lists that are in order and disjoint already, in linear time: live tuning subtracts thirty thousand words. */
export function subtractOrdered(from: readonly Range[], holes: readonly Range[]): Range[] {
  const left: Range[] = [];
  let k = 0;
  for (const range of from) {
    while (k < holes.length && (holes[k] as Range).end <= range.start) k++;
    let start = range.start;
    for (let j = k; j < holes.length; j++) {
      const hole = holes[j] as Range;
      if (hole.start >= range.end) break;
      if (hole.start > start) left.push({ start, end: hole.start });
      start = Math.max(start, hole.end);
    }
    if (start < range.end) left.push({ start, end: range.end });
  }
  return left;
}

export const totalLength = (ranges: readonly Range[]): Seconds => ranges.reduce((sum, range) => sum + lengthOf(range), 0);

/** Index of the first item whose key is greater than `at`, by bisection. `keyOf` must be non-decreasing. */
export function firstAfter(count: number, keyOf: (index: number) => number, at: number): number {
  let low = 0;
  let high = count;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (keyOf(middle) > at) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** A moment in whole milliseconds: finer than any frame; further digits would only be float noise. */
export const toMillis = (at: Seconds): Seconds => Math.round(at * 1000) / 1000;

/** A range in whole milliseconds: decisions carry no finer ones. */
export const inMillis = ({ start, end }: Range): Range => ({ start: toMillis(start), end: toMillis(end) });
