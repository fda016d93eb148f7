/** Words told apart by a letter or two may be the same one misheard. */
const MATCH = 10;
const OTHER = -8;
const GAP = -7;
/** Having lost so much, two sayings have parted: as much as ten other words in a row. */
const LOST = 80;
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

const WIDTH = 2 * BAND + 1;
/** Under any score, and far from the least number. */
const NOWHERE = -1e9;
/** Aligns beginnings of sayings: tens of thousands of pairs for a long recording, in the same room each time. */
export class StartAligner {
  private scores = new Int32Array(0);
  private steps = new Uint8Array(0);

  /**
   * The best alignment of a beginning of one saying with a beginning of another: both start at their first word, and end
   * where going on would only lose. Dynamic programming in a band along the diagonal.
   */
  align<T extends string | number>(left: ArrayLike<T>, right: ArrayLike<T>): Prefix {
    const rows = left.length + 1;
    if (this.scores.length < rows * WIDTH) {
      this.scores = new Int32Array(rows * WIDTH);
      this.steps = new Uint8Array(rows * WIDTH);
    }
    const { scores, steps } = this;
    let [bestScore, bestLeft, bestRight] = [0, 0, 0];
    for (let i = 0; i < rows; i++) {
      let most = NOWHERE;
      const word = left[i - 1];
      // Cell `d` of row `i` is about `j = i - BAND + d`: the cell above it is one further right, that on its diagonal straight above.
      const [from, until] = [Math.max(0, BAND - i), Math.min(WIDTH, right.length - i + BAND + 1)];
      const row = i * WIDTH;
      scores.fill(NOWHERE, row, row + WIDTH);
      let before = NOWHERE;
      for (let d = from; d < until; d++) {
        const here = row + d;
        const j = i - BAND + d;
        let score = NOWHERE;
        let step = 0;
        if (i === 0) {
          if (j === 0) score = 0;
        } else {
          if (j > 0) {
            step = word === right[j - 1] ? 1 : 2;
            score = (scores[here - WIDTH] as number) + (step === 1 ? MATCH : OTHER);
          }
          const above = d + 1 < WIDTH ? (scores[here - WIDTH + 1] as number) + GAP : NOWHERE;
          if (above > score) {
            score = above;
            step = 3;
          }
        }
        if (before + GAP > score) {
          score = before + GAP;
          step = 4;
        }
        before = score;
        scores[here] = score;
        steps[here] = step;
        if (score > most) most = score;
        if (score > bestScore) [bestScore, bestLeft, bestRight] = [score, i, j];
      }
      if (most < bestScore - LOST) break;
    }
    const pairs: [number, number][] = [];
    for (let [i, j] = [bestLeft, bestRight]; i > 0 || j > 0; ) {
      const step = steps[i * WIDTH + j - i + BAND];
      if (step === 1) pairs.push([i - 1, j - 1]);
      if (step === 1 || step === 2) {
        i--;
        j--;
      } else if (step === 3) i--;
      else j--;
    }
    return { left: bestLeft, right: bestRight, matches: pairs.length, pairs: pairs.reverse() };
  }
}
