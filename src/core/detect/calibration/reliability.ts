/** A probability that was told, and whether it came true. */
export interface Told {
  readonly probability: number;
  readonly right: boolean;
}

/** Those told within a tenth of probability: how many, what they were told to be on average, and how many were right. */
export interface ReliabilityBin {
  readonly count: number;
  readonly expected: number;
  readonly observed: number;
}

export interface Reliability {
  readonly count: number;
  /** ten bins, empty ones with the count 0 */
  readonly bins: readonly ReliabilityBin[];
  /** mean squared distance of what was told from what came true (Brier 1950): 0 is perfect, 0.25 says nothing */
  readonly brier: number;
}

const BINS = 10;

/** How far told probabilities can be relied on. */
export function reliabilityOf(told: readonly Told[]): Reliability {
  const sums = Array.from({ length: BINS }, () => ({ count: 0, expected: 0, observed: 0 }));
  let squares = 0;
  for (const { probability, right } of told) {
    const bin = sums[Math.min(BINS - 1, Math.floor(probability * BINS))] as (typeof sums)[number];
    bin.count++;
    bin.expected += probability;
    bin.observed += right ? 1 : 0;
    squares += (probability - (right ? 1 : 0)) ** 2;
  }
  return {
    count: told.length,
    bins: sums.map(({ count, expected, observed }) => ({
      count,
      expected: count > 0 ? expected / count : 0,
      observed: count > 0 ? observed / count : 0,
    })),
    brier: told.length > 0 ? squares / told.length : 0,
  };
}
