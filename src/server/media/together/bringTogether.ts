import { stat } from 'node:fs/promises';
import type { FileFacts } from '@/core/contract/media.ts';
import type { Seconds } from '@/core/time/range.ts';
import { boundsForPicture, type ProcessBounds } from '../bounds.ts';
import { heardThrough } from '../channels.ts';
import { checkEnded, inputArguments, progressOf, startFfmpeg } from '../ffmpeg.ts';
import type { MeasureOptions } from '../measure.ts';

/** A file that ran together with others, and where it lies against the first of them, see `SyncedFile`. */
export interface FilePart {
  readonly path: string;
  readonly name: string;
  readonly facts: FileFacts;
  readonly place: Seconds;
  readonly drift: number;
  readonly sound: boolean;
}

/** What a browser may show in an MP4 file, which also keeps how the picture is turned. */
const IN_MP4 = ['h264', 'hevc', 'av1', 'vp9', 'mpeg4'];
/** Sound that has more than sixteen bits. */
const FINE = /^(pcm_[sf]32|pcm_f64|pcm_s24|flac|alac|wavpack)/;
/** Drift that moves nothing by this much needs no other clock. */
const LEAST_MOVED: Seconds = 0.002;

/**
 * Writes one file of several: the picture of the first as it is, and the sounds of all that have theirs in it, each where it lies, in the
 * clock of the first, without loss. Sound before the first file's start and after `length` is left out.
 * @param length of the whole, in seconds
 * @throws MediaError when one of them cannot be decoded
 */
export async function bringTogether(
  parts: readonly FilePart[],
  length: Seconds,
  to: string,
  { signal, onProgress }: MeasureOptions = {},
): Promise<void> {
  const video = parts[0]?.facts.video;
  const tracks = parts.flatMap((part, file) => (part.sound ? part.facts.audio.map((audio) => ({ part, file, audio })) : []));
  const graph = tracks.map(({ part, file, audio }, k) => `[${file}:${audio.index}]${filterOf(part, audio, length)}[s${k}]`);
  const form = video && IN_MP4.includes(video.codec) && /mp4/.test(parts[0]?.facts.format ?? '') ? 'mp4' : 'matroska';
  const { running, outputs } = startFfmpeg(
    [
      ...['-progress', 'pipe:3', '-y', ...parts.flatMap(({ path }) => inputArguments(path))],
      ...['-filter_complex', graph.join(';')],
      ...(video ? ['-map', `0:${video.index}`, '-c:v', 'copy'] : []),
      ...tracks.flatMap((_, k) => ['-map', `[s${k}]`]),
      // Lossless sound in MP4 is no longer the experiment that it is called.
      ...['-map_metadata', '-1', '-c:a', 'flac', '-compression_level', '2', '-strict', '-2', '-f', form, `file:${to}`],
    ],
    1,
    await boundsFor(parts, tracks.length, length),
    signal,
  );
  for await (const { seconds } of progressOf(outputs[0] as NodeJS.ReadableStream))
    if (seconds !== undefined && length > 0) onProgress?.(Math.min(length, seconds));
  const ended = await running;
  if (signal?.aborted) throw new DOMException('bringing files together was cancelled', 'AbortError');
  checkEnded(ended, 'The files cannot be brought together.');
}

/** Moves a sound to where it lies, in the first file's clock, and makes it as long as the whole. */
function filterOf(
  { place, drift, facts }: FilePart,
  { codec, sampleRate, opposed }: FileFacts['audio'][number],
  length: Seconds,
): string {
  const samples = (seconds: Seconds) => Math.round(seconds * sampleRate);
  const isRetimed = Math.abs(drift) * facts.duration >= LEAST_MOVED;
  const { from, to } = ratioNear(1 + drift);
  return [
    heardThrough({ opposed }),
    // As many samples in another time: read at one rate, taken for those of another.
    ...(isRetimed ? [`aresample=${from}`, `asetrate=${to}`, `aresample=${sampleRate}`] : []),
    place >= 0 ? `adelay=${samples(place)}S:all=1` : `atrim=start_sample=${samples(-place)},asetpts=N/SR/TB`,
    `apad=whole_len=${samples(length)}`,
    `atrim=end_sample=${samples(length)}`,
    'asetpts=N/SR/TB',
    `aformat=sample_fmts=${FINE.test(codec) ? 's32' : 's16'}`,
  ].join(',');
}

/** Two sampling rates whose ratio comes as near as can be. */
function ratioNear(ratio: number): { readonly from: number; readonly to: number } {
  let best = { from: 96_000, to: Math.round(96_000 * ratio), miss: Number.POSITIVE_INFINITY };
  for (let from = 96_000; from < 116_000; from++) {
    const to = Math.round(from * ratio);
    const miss = Math.abs(to / from - ratio);
    if (miss < best.miss) best = { from, to, miss };
  }
  return best;
}

/** What the tracks of the whole are called: as in their files, or else as these. */
export const titlesOf = (parts: readonly Pick<FilePart, 'name' | 'facts' | 'sound'>[]): string[] =>
  parts.flatMap(({ sound, facts, name }) => (sound ? facts.audio.map(({ title }) => title ?? name.replace(/\.[^.]*$/, '')) : []));

/** Bytes that the whole will need at most. */
export async function bytesTogether(parts: readonly FilePart[], length: Seconds): Promise<number> {
  const [first] = parts;
  const picture = first?.facts.video ? (await stat(first.path)).size : 0;
  const sounds = parts.flatMap(({ sound, facts }) => (sound ? facts.audio : []));
  return picture + sounds.reduce((sum, { channels, sampleRate }) => sum + 3 * channels * sampleRate * length, 0);
}

async function boundsFor(parts: readonly FilePart[], tracks: number, length: Seconds): Promise<ProcessBounds> {
  const bounds = boundsForPicture(length);
  return {
    ...bounds,
    cpuSeconds: bounds.cpuSeconds + Math.ceil(tracks * length),
    writesMegabytes: 100 + Math.ceil((1.1 * (await bytesTogether(parts, length))) / 1e6),
  };
}
