import type { FileFacts, MediaFacts, SyncedBy, SyncedFile } from '@/core/contract/media.ts';
import { handoffMedia, startOf } from '@/core/outputs/plan/media.ts';
import { recordingTime } from '@/core/sources/besideTime.ts';
import { align } from '@/core/sync/align.ts';
import type { Seconds } from '@/core/time/range.ts';
import { parseRate } from '@/core/time/rate.ts';
import { roomAt } from '../../room.ts';
import { PassingTrouble } from '../bounds.ts';
import { MediaError } from '../ffmpeg.ts';
import type { MeasureOptions } from '../measure.ts';
import { probe } from '../probe.ts';
import { bringTogether, bytesTogether, type FilePart, titlesOf } from './bringTogether.ts';
import { listenedTo } from './listened.ts';

/** A file that is to be put with others; one whose place is not known is looked for, in the way that `by` says. */
export interface FileToJoin extends Omit<SyncedFile, 'place' | 'facts'> {
  readonly path: string;
  readonly facts: MediaFacts;
  readonly place: Seconds | null;
}

/**
 * Finds where files lie against the first of them, and writes them into one, see `bringTogether`.
 * @param room seconds that it may last at most
 * @param onProgress told shares of the whole, 0..1
 * @returns what is said of the whole
 * @throws MediaError where one cannot be decoded, or would not be part of the whole
 */
export async function joinFiles(
  files: readonly FileToJoin[],
  room: Seconds,
  to: string,
  { signal, onProgress }: MeasureOptions = {},
): Promise<MediaFacts> {
  const searched = files.filter(({ place }) => place === null).length;
  // Listening takes about as long as writing.
  const shareOf = (step: number) => step / (1 + searched);
  const parts: (SyncedFile & FilePart)[] = [];
  let step = 0;
  for (const { place, ...file } of files) {
    const { together: _, ...facts } = file.facts;
    const onShare = (share: number) => onProgress?.(shareOf(step + share));
    const at =
      place === null
        ? await placeOf(files[0] as FileToJoin, file, { signal, onProgress: onShare })
        : { place, drift: file.drift, by: file.by };
    const duration = facts.duration || (await listenedTo(file.path, file.facts, { signal })).duration;
    parts.push({ ...file, ...at, facts: { ...facts, duration } });
    if (place === null) step++;
  }
  const length = lengthOf(parts, room);
  const nowhere = parts.find(({ place, facts }) => place >= length || place + facts.duration <= 0);
  if (nowhere)
    throw new MediaError(`“${nowhere.name}” would lie wholly outside the recording, at ${nowhere.place.toFixed(1)} s.`);
  if ((await roomAt(to)) < (await bytesTogether(parts, length)))
    throw new PassingTrouble('There is not enough room on the disk for the files to be brought together.', true);
  await bringTogether(parts, length, to, {
    signal,
    onProgress: (seconds) => onProgress?.(shareOf(searched + seconds / length)),
  });
  return factsOf(await probe(to), parts);
}

/** What is said of the whole: what the first file says of itself, and the tracks of all. */
function factsOf(probed: MediaFacts, parts: readonly (SyncedFile & FilePart)[]): MediaFacts {
  const [first] = parts as [SyncedFile & FilePart];
  const { timecode, timeReference, video, audio } = first.facts;
  const titles = titlesOf(parts);
  const rates = [audio[0]?.sampleRate ?? 1, probed.audio[0]?.sampleRate ?? 1] as const;
  return {
    format: probed.format,
    duration: probed.duration,
    ...(timecode && { timecode }),
    ...(timeReference !== undefined && { timeReference: Math.round((timeReference * rates[1]) / rates[0]) }),
    ...(video && probed.video && { video: { ...video, index: probed.video.index, playable: probed.video.playable } }),
    audio: probed.audio.map((track, k) => ({ ...track, ...(titles[k] && { title: titles[k].slice(0, 100) }) })),
    together: parts.map(({ path: _, ...part }) => part),
  };
}

/** As long as the first, or, where there is only sound, until the last of them has ended. */
function lengthOf(parts: readonly (SyncedFile & FilePart)[], room: Seconds): Seconds {
  const [first] = parts as [SyncedFile & FilePart];
  if (first.facts.video) return first.facts.duration;
  const ends = parts.map((part) => recordingTime(part, part.facts.duration));
  return Math.max(first.facts.duration, Math.min(room, ...[Math.max(...ends)]));
}

interface Placed {
  readonly place: Seconds;
  readonly drift: number;
  readonly by: SyncedBy;
}

/** Where a file lies against the first: as it is asked for, and where that says nothing, by what is left. */
async function placeOf(
  first: Pick<FileToJoin, 'path' | 'facts'>,
  second: Pick<FileToJoin, 'path' | 'facts' | 'by'>,
  { signal, onProgress }: MeasureOptions,
): Promise<Placed> {
  const { by } = second;
  if (by === 'start') return { place: 0, drift: 0, by };
  const [one, other] = [timeOfDay(first.facts), timeOfDay(second.facts)];
  const byClock = one !== undefined && other !== undefined ? other - one : undefined;
  if (by === 'clock') {
    if (byClock === undefined) throw new MediaError('Not both files say at what time of day they begin.');
    return { place: byClock, drift: 0, by };
  }
  const listen = ({ path, facts }: Pick<FileToJoin, 'path' | 'facts'>, before: number) =>
    listenedTo(path, facts, {
      signal,
      onProgress: (seconds) => onProgress?.((before + Math.min(1, seconds / (facts.duration || seconds || 1))) / 2),
    });
  if (second.facts.audio.length > 0) {
    const fit = await align(await listen(first, 0), await listen(second, 1));
    if (fit) return { place: fit.place, drift: fit.drift, by: 'sound' };
  }
  // Clocks that were never set say nothing.
  if (byClock !== undefined && byClock < first.facts.duration && byClock + second.facts.duration > 0)
    return { place: byClock, drift: 0, by: 'clock' };
  return { place: 0, drift: 0, by: 'start' };
}

/** Seconds since midnight at which a file begins, where it says so. */
function timeOfDay(facts: FileFacts): Seconds | undefined {
  const media = handoffMedia('', facts, facts.duration);
  if (facts.timeReference !== undefined) return facts.timeReference / (facts.audio[0]?.sampleRate ?? 1);
  if (facts.timecode === undefined || media.frameRate === undefined) return undefined;
  const rate = parseRate(media.frameRate);
  return (startOf(media, rate).start * rate.den) / rate.num;
}
