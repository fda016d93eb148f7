import { type TrueCurve, valueOn } from './isotonic.ts';

/** A probability by logistic regression over named evidence. Evidence that a model does not name does not count. */
export interface LogisticModel {
  readonly intercept: number;
  readonly weights: Readonly<Record<string, number>>;
  /** what comes true when the sum alone tells a probability; left out, the sum is taken at its word */
  readonly comesTrue?: TrueCurve | undefined;
}

/** Named numbers that speak for or against something. */
export type Evidence = Readonly<Record<string, number>>;

/**
 * Probabilities are told to a thousandth and are never certain: nothing that is computed is. So rounded, the same evidence
 * gives the same verdict on every machine.
 */
const LEAST = 0.001;

/** How far evidence speaks for something: the sum of a model, in natural logarithms of odds. Evidence that is missing counts as 0. */
export function logOdds({ intercept, weights }: LogisticModel, evidence: Evidence): number {
  let sum = intercept;
  for (const name in weights) sum += (weights[name] as number) * (evidence[name] ?? 0);
  return sum;
}

/** How likely something is, 0..1. */
export function probabilityOf(model: LogisticModel, evidence: Evidence): number {
  const told = Math.min(1 - LEAST, Math.max(LEAST, 1 / (1 + Math.exp(-logOdds(model, evidence)))));
  const probability = model.comesTrue ? valueOn(model.comesTrue, told) : told;
  return Math.min(1 - LEAST, Math.max(LEAST, Math.round(1000 * probability) / 1000));
}

/** Whether what is judged stands in a transcript that is hardly in doubt. */
export const isClean = (evidence: Evidence): boolean => (evidence.clean ?? 0) > 0.5;

/** Something whose truth is known. */
export interface Example {
  readonly evidence: Evidence;
  readonly right: boolean;
  /** how often it counts, 1 when left out */
  readonly count?: number;
}

const MOST_STEPS = 60;
const CONVERGED = 1e-8;

/**
 * Fits a model to examples by Newton's method with a quadratic penalty (ridge) on the weights, not on the intercept, which keeps
 * weights finite where the examples are separable. Evidence is scaled to the spread 1 for the penalty.
 * @param names evidence that may count
 * @param ridge strength of the penalty, in examples
 */
export function fitLogistic(examples: readonly Example[], names: readonly string[], ridge: number): LogisticModel {
  const spreads = names.map((name) => spreadOf(examples.map(({ evidence }) => evidence[name] ?? 0)));
  const rows = examples.map(({ evidence }) => [1, ...names.map((name, k) => (evidence[name] ?? 0) / (spreads[k] as number))]);
  // Most rules say nothing about most examples.
  const filled = rows.map((row) => row.flatMap((value, k) => (value === 0 ? [] : [k])));
  const size = names.length + 1;
  let beta = new Array<number>(size).fill(0);
  for (let step = 0; step < MOST_STEPS; step++) {
    const gradient = beta.map((value, k) => (k === 0 ? 0 : -ridge * value));
    const hessian = Array.from({ length: size }, (_, i) =>
      Array.from({ length: size }, (_, j) => (i === j ? (i === 0 ? 1e-9 : ridge) : 0)),
    );
    for (const [n, row] of rows.entries()) {
      const { right, count = 1 } = examples[n] as Example;
      const p = 1 / (1 + Math.exp(-dot(row, beta)));
      const w = count * Math.max(1e-9, p * (1 - p));
      const columns = filled[n] as number[];
      for (const i of columns) {
        gradient[i] = (gradient[i] as number) + count * ((right ? 1 : 0) - p) * (row[i] as number);
        const line = hessian[i] as number[];
        for (const j of columns) line[j] = (line[j] as number) + w * (row[i] as number) * (row[j] as number);
      }
    }
    const change = solve(hessian, gradient);
    // Long strides overshoot where probabilities are nearly certain.
    const stride = Math.min(1, 3 / Math.max(1e-12, Math.max(...change.map(Math.abs))));
    beta = beta.map((value, k) => value + stride * (change[k] as number));
    if (Math.max(...change.map(Math.abs)) < CONVERGED) break;
  }
  const round = (value: number) => Math.round(value * 1e4) / 1e4;
  return {
    intercept: round(beta[0] as number),
    weights: Object.fromEntries(names.map((name, k) => [name, round((beta[k + 1] as number) / (spreads[k] as number))])),
  };
}

const dot = (a: readonly number[], b: readonly number[]): number =>
  a.reduce((sum, value, k) => sum + value * (b[k] as number), 0);

function spreadOf(values: readonly number[]): number {
  const mean = values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);
  const variance = values.reduce((sum, value) => sum + (value - mean) ** 2, 0) / Math.max(1, values.length);
  return Math.sqrt(variance) || 1;
}

/** Solves a linear system by elimination with pivots. Both arguments are used up. */
function solve(matrix: number[][], right: number[]): number[] {
  const size = right.length;
  for (let k = 0; k < size; k++) {
    let pivot = k;
    for (let row = k + 1; row < size; row++)
      if (Math.abs(matrix[row]?.[k] as number) > Math.abs(matrix[pivot]?.[k] as number)) pivot = row;
    [matrix[k], matrix[pivot]] = [matrix[pivot] as number[], matrix[k] as number[]];
    [right[k], right[pivot]] = [right[pivot] as number, right[k] as number];
    const line = matrix[k] as number[];
    for (let row = k + 1; row < size; row++) {
      const other = matrix[row] as number[];
      const factor = (other[k] as number) / (line[k] as number);
      for (let j = k; j < size; j++) other[j] = (other[j] as number) - factor * (line[j] as number);
      right[row] = (right[row] as number) - factor * (right[k] as number);
    }
  }
  const answer = new Array<number>(size).fill(0);
  for (let k = size - 1; k >= 0; k--) {
    const line = matrix[k] as number[];
    let sum = right[k] as number;
    for (let j = k + 1; j < size; j++) sum -= (line[j] as number) * (answer[j] as number);
    answer[k] = sum / (line[k] as number);
  }
  return answer;
}
