/** Words told apart by a letter or two may be the same one misheard. */
const MATCH = 1;
const OTHER = -0.8;
const GAP = -0.7;
/** Having lost so much, two sayings have parted: as much as ten other words in a row. */
const LOST = 8;
/** Sayings of one line drift apart by so many words at most before they are another line. */
const BAND = 14;

/** How far two sayings that begin at once go together. */
export interface Prefix {
  /** words of each up to the last that they share */
  readonly left: number;
  readonly right: number;
  /** words that are the same in both */
  readonly matches: number;
  /** pairs of places, the same word in each */
  readonly pairs: readonly (readonly [left: number, right: number])[];
}

/**
 * The best alignment of a beginning of one saying with a beginning of another: both start at their first word, and end
 * where going on would only lose. Dynamic programming in a band along the diagonal.
 */
export function alignStarts(left: readonly string[], right: readonly string[]): Prefix {
  const width = 2 * BAND + 1;
  const rows = left.length + 1;
  const scores = new Float32Array(rows * width);
  const steps = new Uint8Array(rows * width);
  const at = (i: number, j: number) => i * width + (j - i + BAND);
  let best = { score: 0, i: 0, j: 0 };
  for (let i = 0; i < rows; i++) {
    scores.fill(Number.NEGATIVE_INFINITY, i * width, (i + 1) * width);
    let most = Number.NEGATIVE_INFINITY;
    for (let j = Math.max(0, i - BAND); j <= Math.min(right.length, i + BAND); j++) {
      if (i === 0 && j === 0) {
        scores[at(0, 0)] = 0;
        most = 0;
        continue;
      }
      let score = Number.NEGATIVE_INFINITY;
      let step = 0;
      if (i > 0 && j > 0) {
        const same = left[i - 1] === right[j - 1];
        score = (scores[at(i - 1, j - 1)] as number) + (same ? MATCH : OTHER);
        step = same ? 1 : 2;
      }
      if (i > 0 && j - i + 1 <= BAND && (scores[at(i - 1, j)] as number) + GAP > score) {
        score = (scores[at(i - 1, j)] as number) + GAP;
        step = 3;
      }
      if (j > 0 && j - 1 - i >= -BAND && (scores[at(i, j - 1)] as number) + GAP > score) {
        score = (scores[at(i, j - 1)] as number) + GAP;
        step = 4;
      }
      scores[at(i, j)] = score;
      steps[at(i, j)] = step;
      most = Math.max(most, score);
      if (score > best.score) best = { score, i, j };
    }
    if (most < best.score - LOST) break;
  }
  const pairs: [number, number][] = [];
  for (let { i, j } = best; i > 0 || j > 0; ) {
    const step = steps[at(i, j)];
    if (step === 1) pairs.unshift([i - 1, j - 1]);
    if (step === 1 || step === 2) {
      i--;
      j--;
    } else if (step === 3) i--;
    else j--;
  }
  return { left: best.i, right: best.j, matches: pairs.length, pairs };
}
