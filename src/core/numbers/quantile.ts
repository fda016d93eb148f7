/** The value that a share `q` of the values does not exceed, 0 of none. */
export const quantile = (values: readonly number[], q: number): number => sortedQuantile(Float64Array.from(values).sort(), q);

/** The same for values in ascending order. */
export const sortedQuantile = (sorted: ArrayLike<number>, q: number): number =>
  sorted[Math.min(sorted.length - 1, Math.floor(q * sorted.length))] ?? 0;

/** The same for codes of a byte each, by counting them: windows of levels are asked for thousands of times. */
export function codeQuantile(codes: Uint8Array, q: number): number {
  const counts = new Uint32Array(256);
  for (let k = 0; k < codes.length; k++) {
    const code = codes[k] as number;
    counts[code] = (counts[code] as number) + 1;
  }
  const place = Math.min(codes.length - 1, Math.floor(q * codes.length));
  let seen = 0;
  for (let code = 0; code < 256; code++) {
    seen += counts[code] as number;
    if (seen > place) return code;
  }
  return 0;
}
