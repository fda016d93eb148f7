import type { Range, Seconds } from '../time/range.ts';

/** Steps a second. */
const RATE = 100;
/** So much of a word's beginning is looked at: it may last over the silence behind it. */
const BEGINNING: Seconds = 0.15;
/** Where less than this share of a stretch is silent, silences tell nothing. */
const LEAST_SILENT = 0.08;

/** Recognisers may be early or late by as much throughout, and edges are moved to the sound on their own. */
const EARLY_OR_LATE: readonly Seconds[] = [-0.2, -0.1, 0, 0.1, 0.2];

/** How words begin in a recording: over sound, as words do that are where they belong, or over silence. */
export class Beginnings {
  /** seconds of silence before each step, in steps */
  private readonly silent: Float64Array;

  /** @param silences found by sound alone, in order and disjoint */
  constructor(silences: readonly Range[], duration: Seconds) {
    const steps = Math.ceil(duration * RATE);
    this.silent = new Float64Array(steps + 1);
    const at = new Uint8Array(steps);
    for (const { start, end } of silences) at.fill(1, Math.round(start * RATE), Math.round(end * RATE));
    for (let k = 0; k < steps; k++) this.silent[k + 1] = (this.silent[k] as number) + (at[k] as number);
  }

  /**
   * How often words begin over silence, beside how often they would wherever they stood: 0 where they never do, about 1 where words and
   * sound have nothing to do with one another.
   * @param spans in order; those outside of the recording do not count
   * @param by seconds that all are moved
   * @returns undefined where there is too little silence to tell
   */
  overSilence(spans: readonly Range[], by: Seconds = 0): number | undefined {
    let [over, count, from, to] = [0, 0, Number.POSITIVE_INFINITY, 0];
    for (const span of spans) {
      const [start, end] = [span.start + by, span.end + by];
      const [first, last] = [this.step(start), this.step(Math.max(start + 1 / RATE, Math.min(end, start + BEGINNING)))];
      if (last <= first) continue;
      over += this.silenceIn(first, last);
      count++;
      from = Math.min(from, first);
      to = Math.max(to, this.step(end), last);
    }
    if (count === 0) return undefined;
    const expected = this.silenceIn(from, to);
    return expected < LEAST_SILENT ? undefined : over / count / expected;
  }

  /** The same wherever within what recognisers are early or late by it is least. */
  leastOverSilence(spans: readonly Range[]): number | undefined {
    const overs = EARLY_OR_LATE.flatMap((by) => this.overSilence(spans, by) ?? []);
    return overs.length > 0 ? Math.min(...overs) : undefined;
  }

  private step(at: Seconds): number {
    return Math.max(0, Math.min(this.silent.length - 1, Math.round(at * RATE)));
  }

  /** Share of silence. */
  private silenceIn(first: number, last: number): number {
    return ((this.silent[last] as number) - (this.silent[first] as number)) / (last - first);
  }
}
