/** Share of the strongest that is about as strong. */
const ABOUT = 0.9;

/**
 * How periodic a stretch of samples is: the highest of its normalised autocorrelations at lags of a range, and the lag.
 * @param window samples; their mean is taken away in place
 * @returns a likeness of 0..1: near 1 for a vowel, near 0 for noise
 */
export function strongestPeriod(
  window: Float32Array,
  shortest: number,
  longest: number,
): { readonly lag: number; readonly likeness: number } {
  const size = window.length;
  let mean = 0;
  for (const one of window) mean += one / size;
  const upTo = new Float32Array(size + 1);
  for (let k = 0; k < size; k++) {
    const one = (window[k] as number) - mean;
    window[k] = one;
    upTo[k + 1] = (upTo[k] as number) + one * one;
  }
  const all = upTo[size] as number;
  const found = new Float32Array(longest + 1);
  let best = 0;
  for (let lag = shortest; lag <= longest; lag++) {
    let both = 0;
    for (let k = lag; k < size; k++) both += (window[k] as number) * (window[k - lag] as number);
    if (both <= 0) continue;
    found[lag] = both / Math.sqrt((all - (upTo[lag] as number)) * (upTo[size - lag] as number) + 1e-20);
    best = Math.max(best, found[lag] as number);
  }
  // Twice a period is one too: of those that are about as strong the shortest, at its top.
  let lag = Math.max(
    shortest,
    found.findIndex((likeness) => likeness > 0 && likeness >= ABOUT * best),
  );
  while (lag < longest && (found[lag + 1] as number) > (found[lag] as number)) lag++;
  return { lag, likeness: best };
}
