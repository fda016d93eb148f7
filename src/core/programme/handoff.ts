import { indexAt } from '../sources/recording.ts';
import type { Range } from '../time/range.ts';
import { type FrameRate, type Frames, formatRate, frames, framesDown, framesUp, parseRate } from '../time/rate.ts';
import { type CountMode, parseTimecode } from '../time/timecode.ts';
import { type Cut, type CutListMedia, toCutList } from './cutlist.ts';
import type { CutList } from './cutlistSchema.ts';

/** One kept piece on a timeline: source and record sides in whole frames, ends exclusive. */
export interface TimelineEvent {
  /** which of several sources; the first when left out */
  readonly source?: number;
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

/** A recording's media file, and where the recording stands on the episode clock. */
export interface PlacedMedia extends Range {
  readonly media: HandoffMedia;
}

/** A media file as the timeline refers to it. */
export interface HandoffSource {
  readonly media: HandoffMedia;
  /** timecode of its first frame, as a count of the timeline's frames */
  readonly start: Frames;
  /** length of the file */
  readonly length: Frames;
  /** the file has another frame rate of its own */
  readonly conformed: boolean;
}

/** All that a timeline format needs to know; every format writes from this alone. */
export interface Handoff {
  readonly title: string;
  /** what its files are named by, without an ending */
  readonly stem: string;
  /** what the timeline is laid out for: the first file, with a picture where any has one, and as many tracks as the one with most */
  readonly media: HandoffMedia;
  /** all files that events refer to, one at least */
  readonly sources: readonly HandoffSource[];
  readonly rate: FrameRate;
  readonly mode: CountMode;
  /** timecode of the programme's first frame, as a count */
  readonly recordStart: Frames;
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
 * @param files of all recordings in order of the clock: the first decides the timeline, the others are conformed to it
 */
export function handOff(title: string, files: readonly PlacedMedia[], cut: Cut, wantedRate?: FrameRate): Handoff {
  const [first] = files as readonly [PlacedMedia];
  const rate = wantedRate ?? (first.media.frameRate ? parseRate(first.media.frameRate) : SOUND_ALONE_RATE);
  const { mode } = startOf(first.media, rate);
  const sources = files.map(({ media }): HandoffSource => {
    const conformed =
      media !== first.media && media.frameRate !== undefined && formatRate(parseRate(media.frameRate)) !== formatRate(rate);
    return { media, start: startOf(media, rate).start, length: framesUp(media.duration, rate), conformed };
  });
  const joined: Span[] = [];
  let vanished = 0;
  let largest = 0;
  for (const piece of cut.programme.pieces) {
    const plain = piece.rate === 1 && !piece.hole;
    const source = Math.max(0, indexAt(files, piece.start));
    const [start, end] = [piece.start, piece.end].map((at) => at - (files[source] as PlacedMedia).start) as [number, number];
    // Hurried and emptied pieces round inwards, so that they meet their neighbours and no kept frame is hurried.
    const from = plain ? framesDown(start, rate) : framesUp(start, rate);
    const until = plain ? framesUp(end, rate) : framesDown(end, rate);
    const to = frames(Math.min(until, (sources[source] as HandoffSource).length));
    if (plain) largest = Math.max(largest, start - (from * rate.den) / rate.num, (to * rate.den) / rate.num - end);
    const last = joined.at(-1);
    // What comes next in the same file must not overlap what came before it; a passage from elsewhere may lie anywhere.
    const goesOn = last !== undefined && last.source === source && from >= last.from && start >= last.end - CLOCK_SLACK;
    if (plain && goesOn && last.rate === 1 && !last.hole && from <= last.to) {
      vanished++;
      last.to = frames(Math.max(last.to, to));
      last.end = end;
      continue;
    }
    const begin = frames(goesOn ? Math.max(from, last.to) : from);
    if (to > begin) joined.push({ source, from: begin, to, end, rate: piece.rate, ...(piece.hole && { hole: true }) });
  }
  let record = 0;
  const events = joined.map(({ source, from, to, rate: speed, hole }): TimelineEvent => {
    const recordIn = frames(record);
    record += Math.max(1, Math.round((to - from) / speed));
    return {
      ...(source > 0 && { source }),
      sourceIn: from,
      sourceOut: to,
      recordIn,
      recordOut: frames(record),
      ...(hole && { hole }),
    };
  });
  return {
    title,
    stem: first.media.name.replace(/\.[^.]*$/, '') || 'cut list',
    media: {
      ...first.media,
      hasVideo: files.some(({ media }) => media.hasVideo),
      tracks: Math.max(...files.map(({ media }) => media.tracks)),
    },
    sources,
    rate,
    mode,
    recordStart: parseTimecode(`0${RECORD_START_HOUR}:00:00${mode === 'drop' ? ';' : ':'}00`, rate).count,
    events,
    length: frames(record),
    roundings: { vanished, added: (record * rate.den) / rate.num - cut.programme.length, largest },
    cutList: toCutList(files, cut),
  };
}

/** A piece in frames of its file, before it has a place on the timeline. */
interface Span {
  readonly source: number;
  readonly from: Frames;
  to: Frames;
  /** seconds of the file */
  end: number;
  readonly rate: number;
  readonly hole?: true;
}

/** Less than anything that could be heard, more than float64 loses on the clock. */
const CLOCK_SLACK = 1e-6;

/** Of the file that an event refers to. */
export const sourceOf = ({ sources }: Handoff, { source = 0 }: TimelineEvent): HandoffSource => sources[source] as HandoffSource;

/** A start timecode, counted at the timeline's rate. */
function startOf(media: HandoffMedia, rate: FrameRate): { start: Frames; mode: CountMode } {
  if (media.timecode) {
    try {
      const { count, mode } = parseTimecode(media.timecode, rate);
      return { start: count, mode };
    } catch {
      // A start timecode of another rate cannot be counted in this one: start at zero, as without one.
    }
  }
  return { start: frames(0), mode: 'nonDrop' };
}
