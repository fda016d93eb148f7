import { codeToDbfs, LEVEL_HOP, LEVEL_RATE, type LevelCurve } from '../../curves/level.ts';
import type { Range, Seconds } from '../../time/range.ts';

/** Where the quiet room of a recording is heard, by itself. */
export interface RoomTone {
  /** the recording, on the clock */
  readonly of: Range;
  readonly tone: Range;
}

/** Long enough that nobody hears it come round, and not too long to be found between two lines. */
const LENGTHS: readonly Seconds[] = [3, 1.5, 0.8];
/** A stretch so much louder than the quietest there is, in dB, has something in it. */
const MOST_OVER = 12;
/** Under this a file holds silence, not a room. */
const LEAST_DBFS = -90;

/**
 * The quietest stretch of a recording in which the room is heard, as long as there is one among the lengths that are tried. Tracks count
 * together, as they are heard.
 * @param levels of the recording's tracks, in its own time
 * @returns undefined where all of it is loud, or silent as only a file can be
 */
export function quietestRoom(levels: readonly LevelCurve[]): Range | undefined {
  const steps = Math.min(...levels.map(({ codes }) => codes.length));
  if (levels.length === 0 || steps === 0) return undefined;
  const loudest = Uint8Array.from({ length: steps }, (_, k) => Math.max(...levels.map(({ codes }) => codes[k] as number)));
  let least: number | undefined;
  for (const seconds of [...LENGTHS].reverse()) {
    const found = quietestOf(loudest, Math.round(seconds * LEVEL_RATE));
    if (found) least = Math.min(least ?? Number.POSITIVE_INFINITY, found.level);
  }
  for (const seconds of LENGTHS) {
    const count = Math.round(seconds * LEVEL_RATE);
    const found = quietestOf(loudest, count);
    if (found && least !== undefined && (found.level - least) / 2 <= MOST_OVER)
      return { start: found.at * LEVEL_HOP, end: (found.at + count) * LEVEL_HOP };
  }
  return undefined;
}

/** The stretch of so many steps whose loudest is softest: how often each level stands in it goes along. */
function quietestOf(codes: Uint8Array, count: number): { readonly at: number; readonly level: number } | undefined {
  if (codes.length < count) return undefined;
  const among = new Uint32Array(256);
  let best: { at: number; level: number } | undefined;
  for (let k = 0; k < codes.length; k++) {
    const [coming, going] = [codes[k] as number, codes[k - count]];
    among[coming] = (among[coming] as number) + 1;
    if (going !== undefined) among[going] = (among[going] as number) - 1;
    if (k < count - 1) continue;
    // Nothing softer than what was found need be counted.
    const limit = best?.level ?? 256;
    let seen = 0;
    let level = 0;
    for (; level < limit; level++) {
      seen += among[level] as number;
      if (seen === count) break;
    }
    if (level < limit && codeToDbfs(level) > LEAST_DBFS) best = { at: k - count + 1, level };
  }
  return best;
}
