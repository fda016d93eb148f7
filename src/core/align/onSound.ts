import type { Range, Seconds } from '../time/range.ts';
import type { RoughTranscript } from '../transcript/roughTranscript.ts';
import { clockOf, onClock, type SoundToFit, type WordsClock } from './wordsClock.ts';

/** Lines are shown a little early, and stay a little longer. */
const LEAST_OFFSET_OF_LINES: Seconds = 0.4;

/**
 * A file's lines and words where they are heard: the very same, or moved to the sound's clock, without what is outside of the recording
 * then, and with a note that says by how much.
 */
export function onSound<T extends RoughTranscript>(rough: T, sound: SoundToFit): T {
  const areWords = rough.passages.some(({ tokens }) => tokens.some(isTimed));
  const clock = clockOf(timedSpans(rough), sound, areWords ? undefined : LEAST_OFFSET_OF_LINES);
  if (!clock) return rough;
  const placed = <T extends MaybeTimed>(one: T): T[] => {
    if (!isTimed(one)) return [one];
    const { start, end } = onClock(one, clock);
    return end <= 0 || start >= sound.duration ? [] : [{ ...one, start: Math.max(0, start), end: Math.min(sound.duration, end) }];
  };
  const passages = rough.passages.flatMap((passage) => {
    const tokens = passage.tokens.flatMap(placed);
    return tokens.length === 0 ? [] : placed({ ...passage, tokens });
  });
  return { ...rough, passages, notes: [...rough.notes, noteOf(clock)] };
}

function noteOf({ offset, rate }: WordsClock): string {
  if (rate !== 1)
    return `These words ran at ${(100 * rate).toFixed(1)} % of the recording's speed, as by another frame rate, and were put where they are heard.`;
  const seconds = Math.abs(offset).toFixed(2);
  return `These words stood ${seconds} s ${offset > 0 ? 'early' : 'late'} throughout, and were moved to where they are heard.`;
}

/** What a file gives times to: words, or else lines. */
function timedSpans({ passages }: RoughTranscript): Range[] {
  const spans = passages.flatMap((passage): Range[] => {
    const timed = passage.tokens.filter(isTimed);
    return timed.length > 0 ? timed : [passage].filter(isTimed);
  });
  return spans.sort((a, b) => a.start - b.start);
}

interface MaybeTimed {
  readonly start?: Seconds;
  readonly end?: Seconds;
}
const isTimed = <T extends MaybeTimed>(one: T): one is T & Range => one.start !== undefined && one.end !== undefined;
