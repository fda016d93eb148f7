import type { HurrySound } from '../../detect/settings.ts';
import { type Cut, toCutList } from '../../programme/cutlist.ts';
import type { CutList } from '../../programme/cutlistSchema.ts';
import type { Piece, Programme } from '../../programme/programme.ts';
import { seenBy } from '../../programme/seen.ts';
import type { CentrePoint } from '../../programme/views.ts';
import { indexAt } from '../../sources/recording.ts';
import { type Range, type Seconds, subtract } from '../../time/range.ts';
import { type FrameRate, type Frames, frames, framesDown, framesToSeconds, framesUp, parseRate } from '../../time/rate.ts';
import { type CountMode, canDrop, parseTimecode } from '../../time/timecode.ts';
import { type Carrier, edgesWithin, type PlannedSource, picturesOf, plannedSource, shownAngles, shows } from './carriers.ts';
import type { FollowersAs, RemovedAs } from './choices.ts';
import type { Marker } from './marker.ts';
import { channelsOf, type HandoffMedia, type PlacedMedia, startOf } from './media.ts';
import { reelNames } from './reels.ts';

/** One stretch of a file on a timeline: source and record sides in whole frames, ends exclusive. */
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
  /** sound of a stretch that is hurried */
  readonly sound?: HurrySound;
  /** the sound goes on where the file has no picture left */
  readonly blind?: true;
  /** taken out: handed over switched off, so that it can be lifted back */
  readonly off?: true;
  /** which of the pictures of its recording is seen; its own when left out */
  readonly angle?: number;
  /** by how much its picture is larger than recorded, as a share */
  readonly closer?: number;
  /** frames on either side of its start in which the picture before goes over into it */
  readonly dissolve?: number;
}

/** Times its speed that an event runs at: exact, since both sides are whole frames. */
export const speedOf = ({ sourceIn, sourceOut, recordIn, recordOut }: TimelineEvent): number =>
  (sourceOut - sourceIn) / (recordOut - recordIn);

/** Whether an event's sound is on the timeline as it was recorded, or hurried with its sound. */
export const isHeardIn = ({ hole, sound, off }: TimelineEvent): boolean => !hole && !off && sound !== 'mute';
/** Whether an event's picture is on the timeline. */
export const isSeenIn = ({ hole, blind, off }: TimelineEvent): boolean => !hole && !blind && !off;

/**
 * The file whose picture stands for an event on a track of pictures, each of which has one of a recording's in sync: that which is seen
 * lies over the others or is the lowest, and those over it are switched off.
 * @param track nought for the recordings' own
 */
export function pictureOn({ sources }: Pick<FramePlan, 'sources'>, event: TimelineEvent, track: number): Carrier | undefined {
  if (event.hole || event.blind || (event.off && track > 0)) return undefined;
  const carrier = picturesOf(sources[event.source ?? 0] as PlannedSource)[track];
  return carrier && (track === (event.angle ?? 0) || shows(carrier, event)) ? carrier : undefined;
}

/** Whether a picture on a track over that which is seen would cover it, and is switched off. */
export const wouldCover = ({ angle }: TimelineEvent, track: number): boolean => track > 0 && track !== angle;

/** Whether an event goes on in its file, without a cut, where another ends. */
export const goesOn = (before: TimelineEvent | undefined, event: TimelineEvent | undefined): boolean =>
  before !== undefined &&
  event !== undefined &&
  (before.source ?? 0) === (event.source ?? 0) &&
  before.sourceOut === event.sourceIn;

/** Of the clock, what an event is on the timeline for. */
export interface Meant extends Range {
  /** index of the event */
  readonly event: number;
}

/** What can be chosen about a timeline. */
export interface PlanOptions {
  readonly rate?: FrameRate | undefined;
  /** timecode of the programme's first frame; one hour when left out */
  readonly recordStart?: string | undefined;
  readonly reel?: string | undefined;
  readonly removed?: RemovedAs | undefined;
  readonly followers?: FollowersAs | undefined;
  /** whether cleaned sound is heard on tracks of its own, and what was recorded is muted */
  readonly cleaned?: boolean | undefined;
  /** pieces of the whole programme, where the cut is of a part of it */
  readonly whole?: readonly Piece[] | undefined;
}

/** A track of sound on the timeline. */
export interface PlannedTrack {
  /** audio stream of the files, from nought */
  readonly stream: number;
  /** channels of the stream: two are a stereo pair */
  readonly channels: number;
  readonly muted: boolean;
  /** its sound is that of the cleaned files, which lie beside those that were recorded */
  readonly cleaned?: true;
}

/** All that an output needs to know of time; every timed output is written from this alone. */
export interface FramePlan {
  readonly title: string;
  /** what its files are named by, without an ending */
  readonly stem: string;
  /** what the timeline is laid out for: the first file, with a picture where any has one, and as many tracks as the one with most */
  readonly media: HandoffMedia;
  /** all files that events refer to, one at least */
  readonly sources: readonly PlannedSource[];
  readonly tracks: readonly PlannedTrack[];
  readonly rate: FrameRate;
  readonly mode: CountMode;
  /** timecode of the programme's first frame, as a count */
  readonly recordStart: Frames;
  readonly events: readonly TimelineEvent[];
  /** the point that stays where it is in a picture that is shown larger */
  readonly centre: CentrePoint;
  /** in order of the clock: what of it each event stands for; words are looked up here */
  readonly meant: readonly Meant[];
  readonly length: Frames;
  readonly roundings: Roundings;
  readonly removed: RemovedAs;
  /** indexes of the events that make the programme, where others stand among them */
  readonly keptEvents: readonly number[];
  readonly markers: readonly Marker[];
  /** the cut list in seconds, for what is not bound to frames */
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
const RECORD_START = '01:00:00:00';

/**
 * The one place where seconds become frames. A piece's in-point rounds down and its out-point up, so that no kept
 * sound is lost; the record side is a running sum of whole frames, so that nothing drifts however long it gets. A split is a boundary
 * between two events, and so is the end of a picture that its sound outlasts.
 * @param files of all recordings in order of the clock: the first decides the timeline, the others are conformed to it
 * @throws RangeError for a record start that is no timecode at the rate
 */
export function planFrames(title: string, files: readonly PlacedMedia[], cut: Cut, options: PlanOptions = {}): FramePlan {
  const [first] = files as readonly [PlacedMedia];
  const rate = options.rate ?? ownRate(files);
  const { mode } = startOf(first.media, rate);
  const sources = sourcesOf(files, rate, options.reel);
  const removed = options.removed ?? 'gone';
  const { pieces } = seenBy(cut.programme, shownAngles(cut.angles ?? [], files));
  const { spans, vanished, largest } = spansOf(pieces, sources, rate);
  const all =
    removed === 'gone'
      ? spans
      : withRemoved(spans, files, sources, { rate, as: removed, pieces: cut.programme.pieces, whole: options.whole });
  const parted = all
    .flatMap((span) => partedAtPictureEnd(span, sources, rate))
    .flatMap((span) => partedAtFileEdges(span, sources, rate));
  const { events, meant, length } = laidOut(parted, sources);
  const media = {
    ...first.media,
    hasVideo: files.some(({ media }) => media.hasVideo),
    tracks: Math.max(...files.map(({ media }) => media.tracks)),
  };
  return {
    title,
    stem: first.media.name.replace(/\.[^.]*$/, '') || 'cut list',
    media,
    sources,
    tracks: withCleaned(tracksOf(files, cut.settings.listen, options.followers ?? 'along'), options.cleaned ?? false),
    rate,
    mode,
    recordStart: recordStartOf(options.recordStart ?? RECORD_START, rate, mode),
    events,
    centre: { x: 0.5, y: 0.5 },
    meant,
    length,
    roundings: {
      vanished,
      added: (spansLength(spans) * rate.den) / rate.num - cut.programme.length,
      largest,
    },
    removed,
    keptEvents: parted.flatMap(({ gone }, k) => (gone ? [] : [k])),
    markers: [],
    cutList: toCutList(files, cut),
  };
}

/** All files of a timeline, each with reels for itself and those beside it. */
function sourcesOf(files: readonly PlacedMedia[], rate: FrameRate, wanted: string | undefined): PlannedSource[] {
  const names = files.map(({ media }) => [media.name, ...(media.together?.beside ?? []).map(({ media }) => media.name)]);
  const reels = reelNames(names.flat(), wanted);
  return files.map((file, k) => plannedSource(file, rate, reels.splice(0, (names[k] as string[]).length)));
}

/** Where the pieces of a programme lie on a timeline, for who shows words there and hands nothing over. */
export function timelineOf(
  files: readonly PlacedMedia[],
  { pieces }: Pick<Programme, 'pieces'>,
): Pick<FramePlan, 'events' | 'meant' | 'rate' | 'sources' | 'length'> {
  const rate = ownRate(files);
  const sources = files.map((file) => plannedSource(file, rate, []));
  const spans = spansOf(pieces, sources, rate).spans.flatMap((span) => partedAtPictureEnd(span, sources, rate));
  return { ...laidOut(spans, sources), rate, sources };
}

/** The rate of the first file, which decides. */
const ownRate = ([first]: readonly PlacedMedia[]): FrameRate =>
  first?.media.frameRate ? parseRate(first.media.frameRate) : SOUND_ALONE_RATE;

/** A piece in frames of its file, before it has a place on the timeline. */
interface Span {
  readonly source: number;
  readonly from: Frames;
  readonly to: Frames;
  /** on the clock; its end is where the piece ended, whatever it was rounded to */
  readonly meant: Range;
  readonly rate: number;
  readonly hole?: true;
  readonly sound?: HurrySound;
  readonly blind?: true;
  readonly off?: true;
  /** file whose picture is seen, by its name as an angle */
  readonly angle?: string;
  /** it is no part of the programme */
  readonly gone?: true;
}

/** Less than anything that could be heard, more than float64 loses on the clock. */
const CLOCK_SLACK = 1e-6;

function spansOf(pieces: readonly Piece[], sources: readonly PlannedSource[], rate: FrameRate) {
  const spans: Span[] = [];
  let vanished = 0;
  let largest = 0;
  const places = sources.map(({ place }) => ({ start: place, end: Number.POSITIVE_INFINITY }));
  for (const piece of pieces) {
    const plain = piece.rate === 1 && !piece.hole;
    const source = Math.max(0, indexAt(places, piece.start));
    const { place, length } = sources[source] as PlannedSource;
    const [start, end] = [piece.start - place, piece.end - place];
    // Hurried and emptied pieces round inwards, so that they meet their neighbours and no kept frame is hurried.
    const from = plain ? framesDown(start, rate) : framesUp(start, rate);
    const to = frames(Math.min(plain ? framesUp(end, rate) : framesDown(end, rate), length));
    if (plain) largest = Math.max(largest, start - (from * rate.den) / rate.num, (to * rate.den) / rate.num - end);
    const last = spans.at(-1);
    // What comes next in the same file must not overlap what came before it; a passage from elsewhere may lie anywhere.
    const follows =
      last !== undefined && last.source === source && from >= last.from && piece.start >= last.meant.end - CLOCK_SLACK;
    const isSplit = follows && piece.start <= last.meant.end + CLOCK_SLACK;
    if (plain && follows && !isSplit && last.rate === 1 && !last.hole && from <= last.to) {
      vanished++;
      // What is seen by another picture begins there all the same.
      if (last.angle === piece.angle) {
        spans[spans.length - 1] = {
          ...last,
          to: frames(Math.max(last.to, to)),
          meant: { start: last.meant.start, end: piece.end },
        };
        continue;
      }
    }
    const begin = frames(follows ? Math.max(from, last.to) : from);
    const { hole, sound, angle } = piece;
    if (to > begin)
      spans.push({
        source,
        from: begin,
        to,
        meant: { start: piece.start, end: piece.end },
        rate: piece.rate,
        ...(hole && { hole }),
        ...(sound && { sound }),
        ...(angle && { angle }),
      });
    else if (follows && plain) spans[spans.length - 1] = { ...last, meant: { start: last.meant.start, end: piece.end } };
  }
  return { spans, vanished, largest };
}

const recordLength = ({ from, to, rate }: Span): number => Math.max(1, Math.round((to - from) / rate));
const spansLength = (spans: readonly Span[]): number => spans.reduce((sum, span) => sum + recordLength(span), 0);

/**
 * What goes is put behind what it followed when it was recorded, or before what it led to. Of a recording of which nothing is left, all of
 * it stands behind the recordings before.
 * @param whole pieces of the programme that these spans are a part of, if they are: what stands beside its other parts is not theirs
 */
function withRemoved(
  spans: readonly Span[],
  files: readonly PlacedMedia[],
  sources: readonly PlannedSource[],
  {
    rate,
    as,
    pieces,
    whole,
  }: {
    readonly rate: FrameRate;
    readonly as: RemovedAs;
    readonly pieces: readonly Piece[];
    readonly whole: readonly Piece[] | undefined;
  },
): Span[] {
  const ending = new Map(spans.map((span) => [span.meant.end, span]));
  const starting = new Map(spans.map((span) => [span.meant.start, span]));
  const behind = new Map<Span | undefined, Span[]>();
  const before = new Map<Span, Span>();
  for (const [source, file] of files.entries()) {
    const { place, length } = sources[source] as PlannedSource;
    const all = { start: file.start, end: file.start + file.media.duration };
    for (const range of subtract([all], whole ?? pieces)) {
      const leading = ending.get(range.start);
      const next = starting.get(range.end);
      // Beside a part, what has nothing of it in front belongs to the part before, unless the recording begins there.
      const isOthers = whole !== undefined && (range.start !== all.start || !next);
      const isAll = range.start === all.start && range.end === all.end;
      if (!leading && (isOthers || (!next && !isAll))) continue;
      const from = frames(leading ? leading.to : framesDown(range.start - place, rate));
      const to = frames(Math.min(length, next ? next.from : framesUp(range.end - place, rate)));
      if (to <= from) continue;
      const span: Span = { source, from, to, meant: range, rate: 1, gone: true, ...(as === 'disabled' && { off: true }) };
      if (next && !leading) before.set(next, span);
      else {
        const host = leading ?? spans.findLast((one) => one.source < source);
        behind.set(host, [...(behind.get(host) ?? []), span]);
      }
    }
  }
  return [
    ...(behind.get(undefined) ?? []),
    ...spans.flatMap((span) => [...(before.has(span) ? [before.get(span) as Span] : []), span, ...(behind.get(span) ?? [])]),
  ];
}

/** A picture may end before its sound: what is heard after that is an event of its own. */
function partedAtPictureEnd(span: Span, sources: readonly PlannedSource[], rate: FrameRate): Span[] {
  const { media, place, pictureLength } = sources[span.source] as PlannedSource;
  if (!media.hasVideo || span.hole || span.to <= pictureLength) return [span];
  if (span.from >= pictureLength) {
    const { sound, ...rest } = span;
    // Neither seen nor heard: emptied.
    return [sound === 'mute' ? { ...rest, hole: true } : { ...span, blind: true }];
  }
  // What is hurried ends with its picture: the few frames of sound after it are not worth a speed of their own.
  if (span.rate !== 1) return [{ ...span, to: pictureLength }];
  const { start, end } = span.meant;
  const at = Math.max(start, Math.min(end, place + framesToSeconds(pictureLength, rate)));
  return [
    { ...span, to: pictureLength, meant: { start, end: at } },
    { ...span, from: pictureLength, meant: { start: at, end }, blind: true },
  ];
}

/** Where a file beside the recording's own begins or ends, an event ends: each lies in it whole, or not at all. */
function partedAtFileEdges(span: Span, sources: readonly PlannedSource[], rate: FrameRate): Span[] {
  const source = sources[span.source] as PlannedSource;
  if (source.carriers.length < 2 || span.hole || span.rate !== 1) return [span];
  const edges = [span.from, ...edgesWithin(source, span.from, span.to, rate), span.to];
  const { start, end } = span.meant;
  const moments = edges.map((edge) => Math.max(start, Math.min(end, source.place + framesToSeconds(edge, rate))));
  return edges.slice(1).map((to, k) => ({
    ...span,
    from: edges[k] as Frames,
    to,
    meant: { start: k === 0 ? start : (moments[k] as number), end: k === edges.length - 2 ? end : (moments[k + 1] as number) },
  }));
}

function laidOut(spans: readonly Span[], sources: readonly PlannedSource[]) {
  let record = 0;
  const events = spans.map((span): TimelineEvent => {
    const { source, from, to, hole, sound, blind, off } = span;
    const angle = angleOf(span, sources[source] as PlannedSource);
    const recordIn = frames(record);
    record += recordLength(span);
    return {
      ...(source > 0 && { source }),
      sourceIn: from,
      sourceOut: to,
      recordIn,
      recordOut: frames(record),
      ...(hole && { hole }),
      ...(sound && { sound }),
      ...(blind && !angle && { blind }),
      ...(off && { off }),
      ...(angle && { angle }),
    };
  });
  const meant = spans
    .map(({ meant: { start, end } }, event): Meant => ({ start, end, event }))
    .filter(({ start, end }) => end > start)
    .sort((a, b) => a.start - b.start);
  return { events, meant, length: frames(record) };
}

/** Which of the pictures of its recording a span shows; undefined for its own, and where the other does not reach. */
function angleOf({ angle, from, to, hole }: Span, source: PlannedSource): number | undefined {
  if (angle === undefined || hole) return undefined;
  const index = picturesOf(source).findIndex(
    (one, k) => k > 0 && one.id === angle && shows(one, { sourceIn: from, sourceOut: to }),
  );
  return index > 0 ? index : undefined;
}

/** The tracks of sound that are handed over. `listen` names those that do not only follow. */
function tracksOf(files: readonly PlacedMedia[], listen: string, followers: FollowersAs): PlannedTrack[] {
  const listening = listen === 'all' ? undefined : new Set(listen.split(',').map(Number));
  const streams = Math.max(...files.map(({ media }) => media.tracks));
  return Array.from({ length: streams }, (_, stream) => ({
    stream,
    channels: Math.max(...files.map(({ media }) => channelsOf(media)[stream] ?? 1)),
    follows: listening !== undefined && !listening.has(stream + 1),
  }))
    .filter(({ follows }) => !(follows && followers === 'left out'))
    .map(({ follows, ...track }) => ({ ...track, muted: follows && followers === 'muted' }));
}

/** Each track that is heard once more, cleaned; what was recorded stays in sync with it, muted. */
const withCleaned = (tracks: readonly PlannedTrack[], isWanted: boolean): readonly PlannedTrack[] =>
  isWanted
    ? [
        ...tracks.map((track) => ({ ...track, muted: true })),
        ...tracks
          .filter(({ muted }) => !muted)
          .map((track) => ({ ...track, channels: Math.min(2, track.channels), cleaned: true as const })),
      ]
    : tracks;

/** A label of non-drop counting is read as one of drop-frame where the timeline counts so, and the other way round. */
function recordStartOf(label: string, rate: FrameRate, mode: CountMode): Frames {
  const sign = mode === 'drop' && canDrop(rate) ? ';' : ':';
  return parseTimecode(label.trim().replace(/[:;.](\d+)$/, `${sign}$1`), rate).count;
}

/** Of the file that an event refers to. */
export const sourceOf = ({ sources }: Pick<FramePlan, 'sources'>, { source = 0 }: TimelineEvent): PlannedSource =>
  sources[source] as PlannedSource;

/** Seconds of a moment on the timeline. */
export const timelineSeconds = ({ rate }: Pick<FramePlan, 'rate'>, count: number): Seconds => (count * rate.den) / rate.num;
