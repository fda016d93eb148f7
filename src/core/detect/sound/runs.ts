/**
 * Runs of samples over the holding threshold, by columns; strong ones (1) reached the opening one, or hold speech. Later
 * `SILENT` marks short ones in which the speech measure hears nobody.
 */
export interface Runs {
  count: number;
  starts: Int32Array;
  ends: Int32Array;
  peaks: Uint8Array;
  strong: Uint8Array;
}

export const SILENT = 2;

/** Runs in no more room than they need, since some answers are kept. */
export const trimmed = ({ count, starts, ends, peaks, strong }: Runs): Runs => ({
  count,
  starts: starts.slice(0, count),
  ends: ends.slice(0, count),
  peaks: peaks.slice(0, count),
  strong: strong.slice(0, count),
});

export const newRuns = (room = 4096): Runs => ({
  count: 0,
  starts: new Int32Array(room),
  ends: new Int32Array(room),
  peaks: new Uint8Array(room),
  strong: new Uint8Array(room),
});

export function addRun(runs: Runs, start: number, end: number, peak: number, strong: boolean): void {
  const at = runs.count++;
  if (at === runs.starts.length) grow(runs);
  runs.starts[at] = start;
  runs.ends[at] = end;
  runs.peaks[at] = peak;
  runs.strong[at] = strong ? 1 : 0;
}

/** Twice the room. Every other sample may start a run, but room for that would be twenty times what speech needs. */
function grow(runs: Runs): void {
  const { starts, ends, peaks, strong } = runs;
  Object.assign(runs, newRuns(2 * starts.length), { count: runs.count });
  runs.starts.set(starts);
  runs.ends.set(ends);
  runs.peaks.set(peaks);
  runs.strong.set(strong);
}
