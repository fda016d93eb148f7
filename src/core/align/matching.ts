import { firstAfter } from '../time/range.ts';

/** Words that sound alike enough to be the same one misheard are worth this share of a match. */
const NEAR = 0.4;
const MATCH = 2;
const OTHER = -0.9;
const GAP = -0.7;
/** Half the width of the band along the diagonal, at least and as a share of the length. */
const BAND = 250;
const BAND_SHARE = 0.04;

/** Cells of a table that are gone through at once; texts that would take more are parted at rows of words that both have once. */
const MOST_CELLS = 6_000_000;
/** Words of such a row. */
const ROW = 4;

/**
 * Which words of one saying are which of another, by global alignment in a band along the diagonal (Needleman and Wunsch). Long
 * texts are parted before that where both say the same unmistakable row of words (as in patience diff, Cohen 2009), so that
 * time grows with their length and not with its square.
 * @returns for each word of `a` the index of its match in `b`, -1 without one; matches ascend
 */
export function matchWords(a: readonly string[], b: readonly string[]): Int32Array {
  if (a.length * (2 * bandOf(a.length, b.length) + 1) <= MOST_CELLS) return align(a, b);
  const matches = new Int32Array(a.length).fill(-1);
  let [i, j] = [0, 0];
  for (const [p, q] of [...sharedRows(a, b), [a.length, b.length] as const]) {
    const part = align(a.slice(i, p), b.slice(j, q));
    for (const [k, match] of part.entries()) if (match >= 0) matches[i + k] = j + match;
    [i, j] = [p, q];
  }
  return matches;
}

/** Where rows of words begin that both texts say, and say once, as far as they come in one order in both. */
function sharedRows(a: readonly string[], b: readonly string[]): (readonly [number, number])[] {
  const inB = onceAt(b);
  const pairs = [...onceAt(a)].flatMap(([row, at]): [number, number][] => {
    const other = inB.get(row);
    return at >= 0 && other !== undefined && other >= 0 ? [[at, other]] : [];
  });
  return longestAscending(pairs);
}

/** Where each row of words stands that comes once; -1 for those that come again. */
function onceAt(words: readonly string[]): Map<string, number> {
  const places = new Map<string, number>();
  for (let k = 0; k + ROW <= words.length; k++) {
    const row = words.slice(k, k + ROW).join(' ');
    places.set(row, places.has(row) ? -1 : k);
  }
  return places;
}

/** The longest run of pairs, in order of the first, whose second ascends as well (Fredman 1975). */
function longestAscending(pairs: readonly (readonly [number, number])[]): (readonly [number, number])[] {
  const ends: number[] = [];
  const came = new Int32Array(pairs.length).fill(-1);
  for (const [k, [, value]] of pairs.entries()) {
    const at = firstAfter(ends.length, (n) => (pairs[ends[n] as number] as readonly [number, number])[1], value);
    came[k] = at > 0 ? (ends[at - 1] as number) : -1;
    ends[at] = k;
  }
  const chosen: (readonly [number, number])[] = [];
  for (let k = ends.at(-1) ?? -1; k >= 0; k = came[k] as number) chosen.push(pairs[k] as readonly [number, number]);
  return chosen.reverse();
}

/** Half the width of the band; no wider than what can be gone through. */
const bandOf = (n: number, m: number): number => Math.min(m, Math.max(BAND, Math.ceil(BAND_SHARE * Math.max(n, m))));

function align(a: readonly string[], b: readonly string[]): Int32Array {
  const [n, m] = [a.length, b.length];
  const band = Math.min(bandOf(n, m), Math.max(BAND, Math.ceil(MOST_CELLS / Math.max(1, n) / 2)));
  const width = 2 * band + 1;
  const centre = (i: number) => (n === 0 ? 0 : Math.round((i * m) / n));
  let before = new Float32Array(width).fill(Number.NEGATIVE_INFINITY);
  // Steps back: 0 both, 1 a word of a alone, 2 a word of b alone.
  const steps = new Uint8Array((n + 1) * width);
  for (let x = 0; x < width; x++) {
    const j = x - band;
    if (j >= 0 && j <= m) {
      before[x] = j * GAP;
      steps[x] = 2;
    }
  }
  for (let i = 1; i <= n; i++) {
    const row = new Float32Array(width).fill(Number.NEGATIVE_INFINITY);
    const shift = centre(i) - centre(i - 1);
    for (let x = 0; x < width; x++) {
      const j = centre(i) + x - band;
      if (j < 0 || j > m) continue;
      let best = (before[x + shift] ?? Number.NEGATIVE_INFINITY) + GAP;
      let step = 1;
      if (j > 0) {
        const both = (before[x + shift - 1] ?? Number.NEGATIVE_INFINITY) + likeness(a[i - 1] as string, b[j - 1] as string);
        if (both >= best) [best, step] = [both, 0];
        const alone = (x > 0 ? (row[x - 1] as number) : Number.NEGATIVE_INFINITY) + GAP;
        if (alone > best) [best, step] = [alone, 2];
      }
      row[x] = best;
      steps[i * width + x] = step;
    }
    before = row;
  }
  return walkBack(a, b, steps, width, band, centre);
}

function walkBack(
  a: readonly string[],
  b: readonly string[],
  steps: Uint8Array,
  width: number,
  band: number,
  centre: (i: number) => number,
): Int32Array {
  const matches = new Int32Array(a.length).fill(-1);
  let [i, j] = [a.length, b.length];
  while (i > 0 && j > 0) {
    const step = steps[i * width + j - centre(i) + band];
    if (step === 0) {
      if (a[i - 1] === b[j - 1]) matches[i - 1] = j - 1;
      i--;
      j--;
    } else if (step === 1) i--;
    else j--;
  }
  return matches;
}

function likeness(a: string, b: string): number {
  if (a === b) return MATCH;
  const shared = sharedStart(a, b) + sharedEnd(a, b);
  return shared >= 0.6 * Math.max(a.length, b.length) ? NEAR * MATCH : OTHER;
}

function sharedStart(a: string, b: string): number {
  let k = 0;
  while (k < a.length && k < b.length && a.charCodeAt(k) === b.charCodeAt(k)) k++;
  return k;
}

function sharedEnd(a: string, b: string): number {
  let k = 0;
  while (k < a.length && k < b.length && a.charCodeAt(a.length - 1 - k) === b.charCodeAt(b.length - 1 - k)) k++;
  return k;
}
