import type { AngleStretch } from '../../decisions/angles.ts';
import { ownTime, recordingTime } from '../../sources/besideTime.ts';
import type { Range, Seconds } from '../../time/range.ts';
import { type FrameRate, type Frames, formatRate, frames, framesNear, framesUp, parseRate } from '../../time/rate.ts';
import { channelsOf, cleanedMedia, type HandoffMedia, type PlacedMedia, startOf } from './media.ts';

/** A media file as the timeline refers to it. */
export interface PlannedSource {
  readonly media: HandoffMedia;
  /** where its recording begins on the episode clock */
  readonly place: Seconds;
  /** timecode of its first frame, as a count of the timeline's frames */
  readonly start: Frames;
  /** length of the file */
  readonly length: Frames;
  /** frames of its picture; nought where it has none */
  readonly pictureLength: Frames;
  /** the timeline has another frame rate than the file */
  readonly conformed: boolean;
  readonly reel: string;
  /** files that its picture and its sounds lie in; its own is the first */
  readonly carriers: readonly Carrier[];
}

/** A file that the picture or a sound of a recording lies in: its own, its cleaned sound, or one that ran together with it. */
export interface Carrier {
  /** empty for the recording's own; tells the files of one recording apart */
  readonly key: string;
  /** what its picture is named by as an angle; empty for the recording's own */
  readonly id: string;
  readonly media: HandoffMedia;
  /** timecode of its first frame, as a count of the timeline's frames */
  readonly start: Frames;
  readonly length: Frames;
  /** frames of its picture; nought where it has none */
  readonly pictureLength: Frames;
  /** the timeline has another frame rate than its picture */
  readonly conformed: boolean;
  readonly reel: string;
  /** tracks of the recording that are its own, `[first, last)` */
  readonly tracks: readonly [first: number, last: number];
  /** where it begins in the recording, in frames and parts of one, and by how much its clock runs faster */
  readonly offset: number;
  readonly drift: number;
}

/** What a file says of itself, counted at the rate of the timeline. @param reels of the file, and of those beside it */
export function plannedSource({ media, start: place }: PlacedMedia, rate: FrameRate, reels: readonly string[]): PlannedSource {
  const end = media.hasVideo ? (media.pictureEnd ?? media.duration) : 0;
  const pictureLength = framesNear(end, rate);
  const length = frames(Math.max(framesUp(media.duration, rate), pictureLength));
  const { start } = startOf(media, rate);
  const [reel = ''] = reels;
  // Without a figure of its own the picture is as long as the sound, whose last frame may be a part of one.
  const seen = media.hasVideo && media.pictureEnd === undefined ? length : pictureLength;
  return {
    media,
    place,
    start,
    length,
    pictureLength: seen,
    conformed: isConformed(media, rate),
    reel,
    carriers: carriersOf(media, { start, length, pictureLength: seen }, rate, reels),
  };
}

const isConformed = ({ conformedFrom, frameRate }: HandoffMedia, rate: FrameRate): boolean =>
  conformedFrom !== undefined || (frameRate !== undefined && formatRate(parseRate(frameRate)) !== formatRate(rate));

/** A stretch of a recording, in frames. */
interface SourceFrames {
  readonly sourceIn: Frames;
  readonly sourceOut: Frames;
}

/** A track of sound: a stream of the recordings, as it was recorded or cleaned. */
interface SoundTrack {
  readonly stream: number;
  readonly cleaned?: true | undefined;
}

/** The files of a recording, its own first. */
function carriersOf(
  media: HandoffMedia,
  { start, length, pictureLength }: Pick<PlannedSource, 'start' | 'length' | 'pictureLength'>,
  rate: FrameRate,
  reels: readonly string[],
): Carrier[] {
  const { together } = media;
  const { channels = [], sampleRate } = together ?? {};
  const alone = together ? { ...media, tracks: channels.length, channels, sampleRate } : media;
  const own: Carrier = {
    key: '',
    id: '',
    media: alone,
    start,
    length,
    pictureLength,
    conformed: isConformed(media, rate),
    reel: reels[0] ?? '',
    tracks: [0, together?.tracks ?? media.tracks],
    offset: 0,
    drift: 0,
  };
  let first = own.tracks[1];
  const beside = together?.beside.map(({ id, media, tracks: count, place, drift }, k): Carrier => {
    const tracks: Carrier['tracks'] = [first, first + count];
    first = tracks[1];
    const whole = (seconds: Seconds) => frames(Math.floor((seconds * rate.num) / rate.den + 1e-6));
    return {
      key: String(k + 2),
      id,
      media,
      start: startOf(media, rate).start,
      length: whole(media.duration),
      pictureLength: whole(media.hasVideo ? (media.pictureEnd ?? media.duration) : 0),
      conformed: isConformed(media, rate),
      reel: reels[k + 1] ?? '',
      tracks,
      offset: (place * rate.num) / rate.den,
      drift,
    };
  });
  return [own, ...(beside ?? [])];
}

/**
 * The frame of a file that is at a frame of the recording. To the nearest: files that lie half a frame apart are at most so far out of sync
 * on a timeline of frames.
 */
export const frameIn = ({ offset, drift }: Pick<Carrier, 'offset' | 'drift'>, frame: number): number =>
  Math.round(ownTime({ place: offset, drift }, frame));

/** The file that a track of sound lies in. */
export function carrierOf(source: PlannedSource, { stream, cleaned }: SoundTrack): Carrier {
  const own = source.carriers[0] as Carrier;
  if (cleaned)
    return { ...own, key: 'cleaned', media: cleanedMedia(source.media), start: frames(0), tracks: [0, source.media.tracks] };
  return source.carriers.find(({ tracks: [first, last] }) => stream >= first && stream < last) ?? own;
}

/** Channel of a carrier's file, counted from 1 over all its streams, that is a channel of a track of the recording. */
export function channelIn({ media, tracks: [first] }: Carrier, stream: number, channel: number): number {
  const counts = channelsOf(media);
  const own = stream - first;
  return counts.slice(0, own).reduce((sum, count) => sum + count, 0) + Math.min(channel, (counts[own] ?? 1) - 1) + 1;
}

/** An event in frames of the file that carries it. */
export function inCarrier<T extends SourceFrames>(carrier: Carrier, event: T): T {
  if (carrier.offset === 0 && carrier.drift === 0) return event;
  const sourceIn = frames(frameIn(carrier, event.sourceIn));
  return { ...event, sourceIn, sourceOut: frames(sourceIn + event.sourceOut - event.sourceIn) };
}

/** Whether a file holds all of an event: those beside a recording's own may begin later and end sooner. */
export function holds(carrier: Carrier, event: SourceFrames): boolean {
  const { sourceIn, sourceOut } = inCarrier(carrier, event);
  return sourceIn >= 0 && sourceOut <= carrier.length;
}

/** The pictures of a recording, its own first. An event names by its place here which one is seen. */
export const picturesOf = ({ carriers }: Pick<PlannedSource, 'carriers'>): readonly Carrier[] =>
  carriers.filter(({ media }, k) => k === 0 || media.hasVideo);

/** How many tracks of picture a timeline has: as many as the recording with most pictures. */
export const pictureTracks = (sources: readonly PlannedSource[]): number =>
  Math.max(...sources.map((source) => picturesOf(source).length));

/** Whether a file has a picture of all of an event. */
export function shows(carrier: Carrier, event: SourceFrames): boolean {
  const { sourceIn, sourceOut } = inCarrier(carrier, event);
  return sourceIn >= 0 && sourceOut <= carrier.pictureLength;
}

/** Angles as far as there are pictures to see of them. @param files of all recordings in order of the clock */
export function shownAngles(angles: readonly AngleStretch[], files: readonly PlacedMedia[]): AngleStretch[] {
  return angles.flatMap(({ angle, ...stretch }) =>
    files.flatMap(({ start, end, media }) => {
      const one = media.together?.beside.find(({ id, media }) => id === angle && media.hasVideo);
      if (!one) return [];
      const from = start + one.place;
      const until = start + recordingTime(one, one.media.pictureEnd ?? one.media.duration);
      const seen: Range = { start: Math.max(stretch.start, start, from), end: Math.min(stretch.end, end, until) };
      return seen.end > seen.start ? [{ ...seen, angle }] : [];
    }),
  );
}

/** A file that is counted in samples is let drift so far: it would else be taken from another one twice a second. */
const MOST_DRIFT: Seconds = 0.02;

/**
 * Frames of a recording, within a stretch of it, at which one of the files beside it begins or ends, or has drifted by another frame: from
 * there on it is taken from a frame sooner or later, so that it is never more than half of one out of sync, however long nothing is cut.
 */
export function edgesWithin({ carriers }: PlannedSource, from: Frames, to: Frames, { num, den }: FrameRate): Frames[] {
  const step = Math.max(1, Math.floor((MOST_DRIFT * num) / den));
  const edges = carriers.slice(1).flatMap((carrier) => {
    const ends = [carrier.length, carrier.pictureLength].flatMap((end) => (step > 1 ? [end, end - step] : [end]));
    return [...[0, ...ends].map((frame) => recordingFrame(carrier, frame)), ...slipsWithin(carrier, from, to, step)];
  });
  return [...new Set(edges)].filter((edge) => edge > from && edge < to).sort((a, b) => a - b);
}

/** Frames of the recording at which the nearest frame of a file is a step more, or one less, ahead than before. */
function slipsWithin(carrier: Carrier, from: number, to: number, step: number): Frames[] {
  const { drift, offset } = carrier;
  if (drift === 0) return [];
  const ahead = (frame: number) => frameIn(carrier, frame) - frame;
  const slips: Frames[] = [];
  const [least, most] = [ahead(from), ahead(to)].sort((a, b) => a - b) as [number, number];
  for (let before = least; before < most; before += step) {
    const near = Math.round((before + 0.5 + offset * (1 + drift)) / drift);
    const slip = [near - 1, near, near + 1].find((frame) => ahead(frame) !== ahead(frame - 1));
    // Of a slow file two frames of the recording are at one: behind both, a clip tells by its start which it begins with.
    if (slip !== undefined) slips.push(frames(drift < 0 ? slip + 1 : slip));
  }
  return slips;
}

/**
 * The frame of the recording that a frame of a carrier is at.
 * @param wanted which of two is meant, where a slow file has one frame for both
 */
export function recordingFrame(
  carrier: Pick<Carrier, 'offset' | 'drift'>,
  frame: number,
  wanted: (frame: number) => boolean = () => true,
): Frames {
  const near = Math.round(recordingTime({ place: carrier.offset, drift: carrier.drift }, frame));
  // Rounded one way and the other the two may be a frame apart.
  const found = [near, near - 1, near + 1].filter((one) => frameIn(carrier, one) === frame);
  return frames(found.find(wanted) ?? found[0] ?? near);
}
