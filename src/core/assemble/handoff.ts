import { type FrameRate, type Frames, frames, framesDown, framesUp, parseRate } from '../time/rate.ts';
import { type CountMode, parseTimecode } from '../time/timecode.ts';
import { type Cut, type CutListMedia, toCutList } from './cutlist.ts';
import type { CutList } from './cutlistSchema.ts';

/** One kept piece on a timeline: source and record sides in whole frames, ends exclusive. */
export interface TimelineEvent {
  /** counted from the start of the file */
  readonly sourceIn: Frames;
  readonly sourceOut: Frames;
  /** counted from the start of the programme */
  readonly recordIn: Frames;
  readonly recordOut: Frames;
  /** nothing from the source is shown or heard here */
  readonly hole?: true;
}

/** Times its speed that an event runs at: exact, since both sides are whole frames. */
export const speedOf = ({ sourceIn, sourceOut, recordIn, recordOut }: TimelineEvent): number =>
  (sourceOut - sourceIn) / (recordOut - recordIn);

export interface HandoffMedia extends CutListMedia {
  readonly hasVideo: boolean;
  /** the file's own start timecode */
  readonly timecode?: string | undefined;
  /** frames came at uneven steps; the rate is what they are conformed to */
  readonly variable?: boolean;
}

/** All that a timeline format needs to know; every format writes from this alone. */
export interface Handoff {
  readonly title: string;
  readonly media: HandoffMedia;
  readonly rate: FrameRate;
  readonly mode: CountMode;
  /** timecode of the file's first frame, as a count */
  readonly sourceStart: Frames;
  /** timecode of the programme's first frame, as a count */
  readonly recordStart: Frames;
  /** length of the file */
  readonly sourceLength: Frames;
  readonly events: readonly TimelineEvent[];
  readonly length: Frames;
  readonly roundings: Roundings;
  /** the cut list in seconds, for formats that are not bound to frames */
  readonly cutList: CutList;
}

/** What the step from seconds to frames did. */
export interface Roundings {
  /** cuts that were shorter than a frame once rounded, and so left in */
  readonly vanished: number;
  /** seconds that the timeline is longer than the programme, since each piece keeps its first and last frame whole */
  readonly added: number;
  /** most that one edge moved, in seconds */
  readonly largest: number;
}

/** Title of the timeline of a file that was given none. */
export const titleFor = (fileName: string): string =>
  fileName
    .replace(/\.[^.]*$/, '')
    .replace(/[_-]+/g, ' ')
    .trim() || fileName;

/** Rate offered for sound alone, where the footage has none of its own. */
export const SOUND_ALONE_RATE: FrameRate = { num: 25, den: 1 };

/** Programmes start at one hour by custom, so that a lead-in has room before them. */
const RECORD_START_HOUR = 1;

/**
 * The one place where seconds become frames. A piece's in-point rounds down and its out-point up, so that no kept
 * sound is lost; the record side is a running sum of whole frames, so that nothing drifts however long it gets.
 */
export function handOff(title: string, media: HandoffMedia, cut: Cut, wantedRate?: FrameRate): Handoff {
  const rate = wantedRate ?? (media.frameRate ? parseRate(media.frameRate) : SOUND_ALONE_RATE);
  const sourceLength = framesUp(media.duration, rate);
  const { sourceStart, mode } = startOf(media, rate);
  const joined: { from: Frames; to: Frames; rate: number; hole?: true }[] = [];
  let vanished = 0;
  let largest = 0;
  for (const piece of cut.programme.pieces) {
    const plain = piece.rate === 1 && !piece.hole;
    // Hurried and emptied pieces round inwards, so that they meet their neighbours and no kept frame is hurried.
    const from = plain ? framesDown(piece.start, rate) : framesUp(piece.start, rate);
    const to = frames(Math.min(plain ? framesUp(piece.end, rate) : framesDown(piece.end, rate), sourceLength));
    if (plain) largest = Math.max(largest, piece.start - (from * rate.den) / rate.num, (to * rate.den) / rate.num - piece.end);
    const last = joined.at(-1);
    if (plain && last && last.rate === 1 && !last.hole && from <= last.to) {
      vanished++;
      last.to = frames(Math.max(last.to, to));
      continue;
    }
    const start = frames(Math.max(from, last?.to ?? 0));
    if (to > start) joined.push({ from: start, to, rate: piece.rate, ...(piece.hole && { hole: true }) });
  }
  let record = 0;
  const events = joined.map(({ from, to, rate: speed, hole }): TimelineEvent => {
    const recordIn = frames(record);
    record += Math.max(1, Math.round((to - from) / speed));
    return { sourceIn: from, sourceOut: to, recordIn, recordOut: frames(record), ...(hole && { hole }) };
  });
  return {
    title,
    media,
    rate,
    mode,
    sourceStart,
    recordStart: parseTimecode(`0${RECORD_START_HOUR}:00:00${mode === 'drop' ? ';' : ':'}00`, rate).count,
    sourceLength,
    events,
    length: frames(record),
    roundings: { vanished, added: (record * rate.den) / rate.num - cut.programme.length, largest },
    cutList: toCutList(media, cut),
  };
}

function startOf(media: HandoffMedia, rate: FrameRate): { sourceStart: Frames; mode: CountMode } {
  if (media.timecode) {
    try {
      const { count, mode } = parseTimecode(media.timecode, rate);
      return { sourceStart: count, mode };
    } catch {
      // A start timecode of another rate cannot be counted in this one: start at zero, as without one.
    }
  }
  return { sourceStart: frames(0), mode: 'nonDrop' };
}
