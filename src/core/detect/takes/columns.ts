/** Sayings under one another: for each column the place of its word in each row, -1 where a row has none. */
export type Columns = readonly (readonly number[])[];

const SAME = 2;
const OTHER = -1;
const GAP = -0.6;

/**
 * Lays several sayings of one line under one another, the same words in one column. The longest comes first, the others
 * are aligned to what there is by then (Needleman and Wunsch 1970, progressively); a word that is in none of the others
 * gets a column of its own, or stands under one that it is said instead of.
 * @param rows each saying's words as they are compared
 */
export function alignRows(rows: readonly (readonly string[])[]): Columns {
  const order = rows.map((_, k) => k).sort((a, b) => lengthOf(rows, b) - lengthOf(rows, a) || a - b);
  let columns: number[][] = [];
  for (const [turn, row] of order.entries()) {
    if (turn === 0) columns = (rows[row] ?? []).map((_, k) => rows.map((_, r) => (r === row ? k : -1)));
    else columns = withRow(columns, rows, row);
  }
  return columns;
}

const lengthOf = (rows: readonly (readonly string[])[], k: number): number => rows[k]?.length ?? 0;

function withRow(columns: readonly number[][], rows: readonly (readonly string[])[], row: number): number[][] {
  const words = rows[row] as readonly string[];
  const [n, m] = [columns.length, words.length];
  const width = m + 1;
  const scores = new Float32Array((n + 1) * width);
  const steps = new Uint8Array((n + 1) * width);
  const sets = columns.map((column) => new Set(column.flatMap((at, r) => (at < 0 ? [] : [rows[r]?.[at] ?? '']))));
  for (let i = 0; i <= n; i++)
    for (let j = 0; j <= m; j++) {
      if (i === 0 && j === 0) continue;
      const here = i * width + j;
      const both =
        i > 0 && j > 0 ? (scores[here - width - 1] as number) + (sets[i - 1]?.has(words[j - 1] as string) ? SAME : OTHER) : -1e9;
      // What a saying lacks at its end costs nothing: it was broken off there.
      const up = i > 0 ? (scores[here - width] as number) + (j === m ? 0 : GAP) : -1e9;
      const left = j > 0 ? (scores[here - 1] as number) + GAP : -1e9;
      const best = Math.max(both, up, left);
      scores[here] = best;
      steps[here] = best === both ? 0 : best === up ? 1 : 2;
    }
  const made: number[][] = [];
  for (let i = n, j = m; i > 0 || j > 0; ) {
    const step = steps[i * width + j];
    if (step === 2) {
      made.push(rows.map((_, r) => (r === row ? j - 1 : -1)));
      j--;
      continue;
    }
    const column = [...(columns[i - 1] as number[])];
    if (step === 0) {
      column[row] = j - 1;
      j--;
    }
    made.push(column);
    i--;
  }
  return made.reverse();
}
