import type { FileFacts, MediaFacts, SyncedFile } from '../../contract/media.ts';
import { SOUND_RATE } from '../../contract/sound.ts';
import type { CutListMedia } from '../../programme/cutlist.ts';
import type { BesidePlace } from '../../sources/besideTime.ts';
import type { Range, Seconds } from '../../time/range.ts';
import { type FrameRate, type Frames, formatRate, frames, framesNear, parseRate } from '../../time/rate.ts';
import { standardRateOf } from '../../time/standardRates.ts';
import { type CountMode, canDrop, nominalTimecode, parseTimecode } from '../../time/timecode.ts';

/** A media file as hand-off needs it. `frameRate` is the standard rate that it is counted at. */
export interface HandoffMedia extends CutListMedia {
  readonly hasVideo: boolean;
  /** the file's own start timecode */
  readonly timecode?: string | undefined;
  /** a broadcast wave's own start, in samples since midnight */
  readonly timeReference?: { readonly samples: number; readonly sampleRate: number } | undefined;
  /** frames came at uneven steps */
  readonly variable?: boolean;
  /** channels of a track cancel each other: what is heard here has one of them turned over */
  readonly opposed?: boolean;
  /** `num/den`, where the footage has another rate of its own than it is counted at */
  readonly conformedFrom?: string | undefined;
  /** channels of each track; one each when left out */
  readonly channels?: readonly number[] | undefined;
  readonly sampleRate?: number | undefined;
  /** seconds until the last frame of the picture has been shown; as long as the sound when left out */
  readonly pictureEnd?: Seconds | undefined;
  readonly width?: number | undefined;
  readonly height?: number | undefined;
  /** where it lies for whoever reads the timeline, as a URI or a path relative to the timeline's file; its bare name when left out */
  readonly location?: string | undefined;
  /** of a recording of several files that ran together: what the first of them holds by itself, and the others that it has a sound or a picture of */
  readonly together?: {
    /** channels of each track of the first file */
    readonly channels: readonly number[];
    readonly sampleRate: number | undefined;
    /** how many of its tracks are in the recording: all or none */
    readonly tracks: number;
    readonly beside: readonly BesideMedia[];
  };
}

/** A file that ran together with a recording's first. */
export interface BesideMedia extends BesidePlace {
  /** what an angle is named by */
  readonly id: string;
  readonly media: HandoffMedia;
  /** how many of its tracks are in the recording, behind those of the files before: all or none */
  readonly tracks: number;
}

/** A recording's media file, and where the recording stands on the episode clock. */
export interface PlacedMedia extends Range {
  readonly media: HandoffMedia;
}

/** What ends the bare name of a file of cleaned sound, which lies beside its recording. */
const CLEANED = ' cleaned.wav';

const bare = (name: string): string => name.replace(/\.[^./\\]*$/, '');

/** Name of the cleaned sound of a file: the tracks of the file as channels of one, sample for sample where they are in it. */
export const cleanedName = (name: string): string => `${bare(name)}${CLEANED}`;

/** Whether a file is the cleaned sound of another. */
export const isCleanedOf = (name: string, other: string): boolean => name === cleanedName(other) && name !== other;

/** A file's cleaned sound, where it lies beside it. */
export const cleanedMedia = ({ name, location, duration, tracks, channels }: HandoffMedia): HandoffMedia => ({
  name: cleanedName(name),
  duration,
  tracks,
  channels: channels?.map((count) => Math.min(2, count)),
  sampleRate: SOUND_RATE,
  hasVideo: false,
  location: location?.replace(/[^/\\]*$/, encodeURIComponent(cleanedName(name))),
});

/** Channels of all tracks of a file, one after another. */
export const channelsOf = ({ channels, tracks }: HandoffMedia): readonly number[] =>
  Array.from({ length: tracks }, (_, k) => channels?.[k] ?? 1);

/**
 * A file's start, counted at the timeline's rate: its timecode is read at its own rate, and where the timeline has another it is the
 * same moment in seconds since midnight. A time reference counts where there is no timecode.
 */
export function startOf(media: HandoffMedia, rate: FrameRate): { readonly start: Frames; readonly mode: CountMode } {
  const { timecode, timeReference, frameRate } = media;
  if (timecode) {
    const own = frameRate === undefined ? rate : parseRate(frameRate);
    const read = readTimecode(timecode, own);
    if (!read) return { start: frames(0), mode: 'nonDrop' };
    const mode: CountMode = read.mode === 'drop' && canDrop(rate) ? 'drop' : 'nonDrop';
    if (formatRate(own) === formatRate(rate)) return { start: read.count, mode };
    return { start: framesNear((read.count * own.den) / own.num, rate), mode };
  }
  if (timeReference && timeReference.sampleRate > 0)
    return { start: framesNear(timeReference.samples / timeReference.sampleRate, rate), mode: 'nonDrop' };
  return { start: frames(0), mode: 'nonDrop' };
}

/** A label at a rate; one that was counted at a faster rate than the footage is conformed to keeps its part of the second. */
function readTimecode(label: string, rate: FrameRate) {
  try {
    return parseTimecode(label, rate);
  } catch {
    return nominalTimecode(label, rate);
  }
}

/** Of the files that a recording is made of, those that it is handed over with: the first, and each that has a sound or a picture in it. */
export const filesIn = ({ together = [] }: MediaFacts): readonly SyncedFile[] =>
  together.filter(({ sound, facts }, k) => k === 0 || sound || facts.video);

/** What hand-off formats say of a recording's media file. Footage is counted at a standard rate. */
export function handoffMedia(name: string, facts: MediaFacts, duration: number): HandoffMedia {
  const whole = mediaOf(name, facts, duration);
  const [first, ...others] = filesIn(facts);
  if (!first) return whole;
  const channels = first.facts.audio.map((track) => track.channels);
  const beside = others.map(({ id, name, facts, place, drift, sound }) => {
    const media = mediaOf(name, facts, facts.duration);
    return { id, media, tracks: sound ? media.tracks : 0, place, drift };
  });
  return {
    ...whole,
    together: { channels, sampleRate: first.facts.audio[0]?.sampleRate, tracks: first.sound ? channels.length : 0, beside },
  };
}

/**
 * The same with where its files lie for whoever reads the timeline.
 * @param paths of the file itself and of each beside it, as they are known here
 */
export function locatedMedia(
  media: HandoffMedia,
  [own, ...others]: readonly string[],
  locate: (path: string) => string,
): HandoffMedia {
  const at = (one: HandoffMedia, path = one.name): HandoffMedia => ({ ...one, location: locate(path) });
  const { together } = media;
  if (!together) return at(media, own);
  const beside = together.beside.map((one, k) => ({ ...one, media: at(one.media, others[k]) }));
  return { ...at(media, own), together: { ...together, beside } };
}

function mediaOf(name: string, facts: FileFacts, duration: number): HandoffMedia {
  const { video, audio, timecode, timeReference } = facts;
  const standard = video && standardRateOf(video.rate, video.variable);
  const sampleRate = audio[0]?.sampleRate;
  return {
    name,
    duration,
    frameRate: standard && formatRate(standard.rate),
    conformedFrom: standard?.conformedFrom,
    tracks: audio.length,
    channels: audio.map(({ channels }) => channels),
    sampleRate,
    hasVideo: video !== undefined,
    ...(video && { width: video.width, height: video.height, pictureEnd: video.end }),
    timecode,
    ...(timeReference !== undefined && sampleRate && { timeReference: { samples: timeReference, sampleRate } }),
    variable: video?.variable ?? false,
    ...(audio.some((track) => track.opposed) && { opposed: true }),
  };
}
