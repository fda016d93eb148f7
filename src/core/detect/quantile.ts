/** The value that a share `q` of the values does not exceed, 0 of none. */
export const quantile = (values: readonly number[], q: number): number =>
  sortedQuantile(
    [...values].sort((a, b) => a - b),
    q,
  );

/** The same for values in ascending order. */
export const sortedQuantile = (sorted: readonly number[], q: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? 0;
