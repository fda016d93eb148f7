import { formatClock } from '../time/clock.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';

/**
 * A recording on the episode clock: where it begins and ends there. Recordings stand one after another in the order in which they
 * were added. A place once given never changes, so that no decision has to be rewritten.
 */
export interface Recording extends Range {
  readonly id: string;
}

/** Room between recordings, in seconds at least: two that touched would be one to everything that works by time. */
const LEAST_ROOM: Seconds = 1;

/** Place on the clock for a recording that is added. Whole seconds, so that every curve's samples stay on one grid. */
export const nextPlace = (recordings: readonly Range[]): Seconds =>
  recordings.length === 0 ? 0 : Math.ceil(Math.max(...recordings.map(({ end }) => end))) + LEAST_ROOM;

/** Index of the recording that a moment of the clock lies in, or of the last one before it; -1 before the first. */
export const indexAt = (recordings: readonly Range[], at: Seconds): number =>
  firstAfter(recordings.length, (k) => (recordings[k] as Range).start, at) - 1;

/** The recording that a moment lies in, or the nearest before it, or the first. */
export const recordingAt = <T extends Range>(recordings: readonly T[], at: Seconds): T | undefined =>
  recordings[Math.max(0, indexAt(recordings, at))];

/** Recordings that are part of the episode, in their order: all but those that were removed from it. */
export const presentOf = <T extends { readonly id: string }>(
  recordings: readonly T[],
  removed: readonly string[],
): readonly T[] => (removed.length === 0 ? recordings : recordings.filter(({ id }) => !removed.includes(id)));

/** The recordings that end at most so long before another one begins. @param recordings in order of their places */
export const shortlyBefore = <T extends Range>(recordings: readonly T[], later: Range, within: Seconds): readonly T[] =>
  recordings.filter(({ start, end }) => start < later.start && later.start - end < within);

/** A moment as people read it: in its recording's own time, with the recording's number where there are several. */
export function momentLabel(recordings: readonly Range[], at: Seconds, tenths = false): string {
  const index = Math.max(0, indexAt(recordings, at));
  const own = formatClock(at - (recordings[index]?.start ?? 0), tenths);
  return recordings.length < 2 ? own : `${index + 1}·${own}`;
}

/** A range cut to the recording that it begins in. Undefined where nothing is left of it. */
export function clipToRecording(range: Range, recordings: readonly Range[]): Range | undefined {
  const inside = recordings[indexAt(recordings, range.start)];
  if (!inside) return undefined;
  const end = Math.min(range.end, inside.end);
  return end > range.start ? { start: range.start, end } : undefined;
}
