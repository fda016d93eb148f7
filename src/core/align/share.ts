import { type Range, type Seconds, subtractOrdered } from '../time/range.ts';
import { spokenWeight } from './weight.ts';

/** Shorter stretches of sound are no word on their own. */
const LEAST_STRETCH: Seconds = 0.04;
/** Words this far from where their share of the sound would put them are not looked at. */
const BAND = 40;
/** A pause after a comma is likelier than one after any other word, by so many seconds of misfit. */
const PUNCTUATION = 0.25;

/**
 * Shares a stretch out among words, in order: their sound, silences left out, by how long each takes to say. Which words
 * fall into which run of sound is found by dynamic programming, so that pauses come between words, and rather after a
 * comma or a full stop.
 * @param silences in order and disjoint
 */
export function shareOut(texts: readonly string[], range: Range, silences: readonly Range[]): Range[] {
  const count = texts.length;
  if (count === 0) return [];
  const sounds = subtractOrdered([range], silences).filter(({ start, end }) => end - start >= LEAST_STRETCH);
  const stretches = sounds.length > 0 ? sounds : [range];
  const weights = texts.map(spokenWeight);
  const upTo = runningSum(weights);
  const room = stretches.reduce((sum, { start, end }) => sum + end - start, 0);
  const rate = room / (upTo[count] as number);
  const firsts = firstWords(texts, upTo, stretches, rate, room);
  const shared: Range[] = [];
  for (const [s, { start, end }] of stretches.entries()) {
    const [from, to] = [firsts[s] as number, firsts[s + 1] as number];
    const all = (upTo[to] as number) - (upTo[from] as number);
    const at = (k: number) => start + (((upTo[k] as number) - (upTo[from] as number)) / all) * (end - start);
    for (let k = from; k < to; k++) shared.push({ start: at(k), end: at(k + 1) });
  }
  return shared;
}

function runningSum(values: readonly number[]): Float64Array {
  const sums = new Float64Array(values.length + 1);
  for (const [k, value] of values.entries()) sums[k + 1] = (sums[k] as number) + value;
  return sums;
}

/** The first word of each stretch, and the number of words behind the last. */
function firstWords(
  texts: readonly string[],
  upTo: Float64Array,
  stretches: readonly Range[],
  rate: number,
  room: Seconds,
): number[] {
  const count = texts.length;
  // Least misfit with `low + n` words placed after the stretches so far; and where the last of them began.
  let best = Float64Array.of(0);
  let low = 0;
  const came: { readonly first: number; readonly from: Int32Array }[] = [];
  let passed = 0;
  for (const [s, { start, end }] of stretches.entries()) {
    const length = end - start;
    passed += length;
    const isLast = s + 1 === stretches.length;
    const middle = nearestIndex(upTo, (passed / room) * (upTo[count] as number));
    const [first, last] = isLast ? [count, count] : [Math.max(0, middle - BAND), Math.min(count, middle + BAND)];
    const next = new Float64Array(last - first + 1).fill(Number.POSITIVE_INFINITY);
    const from = new Int32Array(last - first + 1).fill(-1);
    for (let k = first; k <= last; k++) {
      const ends = k > 0 && /[,.;:!?…]["'”’)]*$/u.test(texts[k - 1] as string);
      const reach = Math.min(k, low + best.length - 1);
      for (let j = low; j <= reach; j++) {
        const before = best[j - low] as number;
        if (before === Number.POSITIVE_INFINITY) continue;
        const asked = ((upTo[k] as number) - (upTo[j] as number)) * rate;
        const misfit = (asked - length) ** 2 / (length + 0.1) - (ends && k > j && !isLast ? PUNCTUATION * 0.3 : 0);
        if (before + misfit < (next[k - first] as number)) {
          next[k - first] = before + misfit;
          from[k - first] = j;
        }
      }
    }
    best = next;
    came.push({ first, from });
    low = first;
  }
  const firsts = [count];
  for (let s = stretches.length - 1; s >= 0; s--) {
    const { first, from } = came[s] as (typeof came)[number];
    firsts.push(Math.max(0, from[(firsts.at(-1) as number) - first] ?? 0));
  }
  return firsts.reverse();
}

function nearestIndex(sums: Float64Array, value: number): number {
  let low = 0;
  let high = sums.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((sums[middle] as number) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
