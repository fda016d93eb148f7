import { closeSync, fsync, openSync, writeSync } from 'node:fs';
import { mkdir, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { MediaFacts } from '@/core/contract/media.ts';
import { type CurveHeader, encodeHeader, HEADER_BYTES } from '@/core/curves/codec.ts';
import { LEVEL_RATE } from '@/core/curves/level.ts';
import { curveFileOf } from '@/core/curves/measures.ts';
import { type MeterSink, TrackMeter } from '@/core/curves/meter.ts';
import { PEAK_BASE_RATE, PEAK_FACTOR, PEAK_LAYERS } from '@/core/curves/peaks.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import { boundsForSound } from './bounds.ts';
import { heardThrough } from './channels.ts';
import { checkEnded, inputArguments, MediaError, NOT_AS_TOLD, startFfmpeg } from './ffmpeg.ts';

export const peaksFile = (track: number, layer: number): string => `peaks-${track}-${layer}.ztcv`;

export interface MeasureOptions {
  /** where stretches that are measured side by side begin, multiples of `STRETCH_UNIT`; by length and format when left out */
  readonly splits?: readonly number[];
  /** told how many seconds are measured, a few times a second at most */
  readonly onProgress?: (seconds: number) => void;
  readonly signal?: AbortSignal;
}

/** A header may be rounded, and sound may outlast a picture; by this much it may not. */
const SLACK: Seconds = 60;

/** How often progress is told. */
const PROGRESS_BYTES = 4_000_000;

/** Seconds. At its multiples a new sample begins in each layer of the pyramid, and a new group of samples at any rate. */
export const STRETCH_UNIT = 32;
/** Shorter than this nobody waits long enough to be worth two processes. */
const LEAST_SPLIT = 600;
/** Containers that seek to the very sample; others are measured in one go. */
const SEEKS_EXACTLY = new Set(['flac']);
/** Left to itself ffmpeg mixes channels as floats; of integers that takes a fifth of the time that decoding does. */
const HOLDS_INTEGERS = /^(flac|alac|pcm_[su]\d)/;
const IN_INTEGERS = 'internal_sample_fmt=s16p';

/**
 * Measures all audio tracks of a file in one pass of ffmpeg, and writes their curves into a folder, where they appear
 * when all are whole. Memory does not grow with the length.
 *
 * A long file of a kind that seeks exactly is read in two halves side by side, each by an ffmpeg of its own: down-mixing
 * and writing run on one thread there, which took half as long again as decoding on all of them. The curves are the same.
 * @returns the measured length in seconds, that of the longest track
 * @throws MediaError when the sound cannot be decoded
 */
export async function measure(path: string, facts: MediaFacts, folder: string, options: MeasureOptions = {}): Promise<number> {
  const work = `${folder}.part`;
  const { splits = splitsOf(facts) } = options;
  try {
    let length = await measureStretches(path, facts, work, splits, options);
    // Shorter than it says: a stretch began where nothing is.
    if (splits.some((split) => split >= length)) length = await measureStretches(path, facts, work, [], options);
    if (length === 0) throw new MediaError('The sound cannot be decoded: no samples');
    // What other jobs have measured stays beside them.
    await mkdir(folder, { recursive: true });
    for (const name of await readdir(work)) await rename(join(work, name), join(folder, name));
    await rm(work, { recursive: true, force: true });
    return length;
  } catch (error) {
    await rm(work, { recursive: true, force: true });
    throw error;
  }
}

function splitsOf({ format, duration, audio }: MediaFacts): number[] {
  if (!SEEKS_EXACTLY.has(format) || audio.length > 1 || duration < LEAST_SPLIT) return [];
  return [Math.round(duration / 2 / STRETCH_UNIT) * STRETCH_UNIT];
}

/** @returns seconds of the longest track */
async function measureStretches(
  path: string,
  facts: MediaFacts,
  work: string,
  splits: readonly number[],
  { onProgress, signal }: MeasureOptions,
): Promise<number> {
  await rm(work, { recursive: true, force: true });
  await mkdir(work, { recursive: true });
  const files = facts.audio.map((_, track) => new TrackFiles(work, track));
  const starts = [0, ...splits];
  const done = starts.map(() => 0);
  const failed = new AbortController();
  const stretches = starts.map((start, k) =>
    measureStretch(
      path,
      facts,
      files,
      { start, end: starts[k + 1] ?? Number.POSITIVE_INFINITY },
      signal ? AbortSignal.any([signal, failed.signal]) : failed.signal,
      (seconds) => {
        done[k] = seconds;
        onProgress?.(done.reduce((sum, one) => sum + one, 0));
      },
    ).catch((error) => {
      failed.abort();
      throw error;
    }),
  );
  // All must have let go of the files before these are closed or taken away.
  const ends = await Promise.allSettled(stretches);
  await Promise.all(files.map((file) => file.close()));
  const errors = ends.flatMap((end) => (end.status === 'rejected' ? [end.reason as Error] : []));
  // What failed has stopped the others.
  if (errors.length > 0) throw errors.find(({ name }) => name !== 'AbortError') ?? errors[0];
  return Math.max(...ends.map((end) => (end.status === 'fulfilled' ? end.value : 0)));
}

/**
 * One stretch of all tracks. It is read from a little before its start to a little after its end, since filters remember and
 * levels look to either side.
 * @returns the moment at which the longest track ends, or at which reading stopped
 */
async function measureStretch(
  path: string,
  { audio, duration }: MediaFacts,
  files: readonly TrackFiles[],
  { start, end }: Range,
  signal: AbortSignal | undefined,
  onProgress: (seconds: number) => void,
): Promise<number> {
  const from = Math.max(0, start - STRETCH_UNIT);
  const outputs = audio.flatMap((heard, track) => [
    ...['-map', `0:${heard.index}`],
    ...['-af', heardThrough(heard, 'ocl=mono', ...(HOLDS_INTEGERS.test(heard.codec) ? [IN_INTEGERS] : []))],
    ...['-ac', '1', '-flush_packets', '0'],
    ...['-f', 's16le', `pipe:${track + 3}`],
  ]);
  const isLast = end === Number.POSITIVE_INFINITY;
  const reading = [
    // Stretches share the cores: more threads would only make more work.
    ...(start > 0 || !isLast ? ['-threads', '1'] : []),
    ...(from > 0 ? ['-ss', String(from)] : []),
    ...(isLast ? [] : ['-t', String(end + STRETCH_UNIT - from)]),
  ];
  const bounds = boundsForSound(duration * audio.length);
  const decoding = startFfmpeg([...reading, ...inputArguments(path), ...outputs], audio.length, bounds, signal);
  const most = duration > 0 ? 1.05 * duration + SLACK : Number.POSITIVE_INFINITY;
  const meters = audio.map(
    ({ sampleRate }, k) => new TrackMeter(sampleRate, (files[k] as TrackFiles).sinkFor({ start, end }, start - from)),
  );
  const tell = (seconds: number) => onProgress(Math.max(0, seconds - (start - from)));
  await Promise.all(
    meters.map((meter, k) => consume(decoding.outputs[k] as NodeJS.ReadableStream, meter, most, k === 0 ? tell : undefined)),
  ).catch((error) => {
    decoding.running.kill('SIGKILL');
    throw error;
  });
  const ended = await decoding.running;
  if (signal?.aborted) throw new DOMException('measuring was cancelled', 'AbortError');
  checkEnded(ended, `The sound cannot be decoded: ${ended.stderr.split('\n')[0]?.replaceAll(path, 'the file') || 'no samples'}.`);
  return from + Math.max(...meters.map((meter) => meter.seconds));
}

async function consume(
  stream: NodeJS.ReadableStream,
  meter: TrackMeter,
  most: Seconds,
  onProgress?: (seconds: number) => void,
): Promise<void> {
  let odd: Buffer | undefined;
  let told = 0;
  let bytes = 0;
  for await (const part of stream) {
    let chunk = part as Buffer;
    if (odd) chunk = Buffer.concat([odd, chunk]);
    const whole = chunk.length & ~1;
    odd = whole < chunk.length ? chunk.subarray(whole) : undefined;
    // Typed arrays want even offsets, and pooled buffers may start anywhere.
    const aligned = chunk.byteOffset % 2 === 0 ? chunk : Buffer.from(chunk);
    meter.push(new Int16Array(aligned.buffer, aligned.byteOffset, whole / 2));
    bytes += whole;
    if (meter.seconds > most) throw new MediaError(NOT_AS_TOLD);
    if (bytes - told > PROGRESS_BYTES) {
      told = bytes;
      onProgress?.(meter.seconds);
    }
  }
  meter.finish();
}

/** The curve files of one track while they are written. */
class TrackFiles {
  private readonly level: CurveFile;
  private readonly peaks: readonly CurveFile[];

  constructor(folder: string, track: number) {
    this.level = new CurveFile(join(folder, curveFileOf('levels', track)), {
      kind: 'level',
      bytesPerSample: 1,
      rateNum: LEVEL_RATE,
      rateDen: 1,
    });
    this.peaks = Array.from(
      { length: PEAK_LAYERS },
      (_, layer) =>
        new CurveFile(join(folder, peaksFile(track, layer)), {
          kind: 'peaks',
          bytesPerSample: 2,
          rateNum: PEAK_BASE_RATE,
          rateDen: PEAK_FACTOR ** layer,
        }),
    );
  }

  /** Where a meter puts a stretch that begins `lead` seconds after its first sample. */
  sinkFor(range: Range, lead: Seconds): MeterSink {
    const level = this.level.writer(range, lead);
    const peaks = this.peaks.map((file) => file.writer(range, lead));
    return {
      level,
      peaks: (layer, pairs) => peaks[layer]?.(new Uint8Array(pairs.buffer, pairs.byteOffset, pairs.byteLength)),
    };
  }

  async close(): Promise<void> {
    await Promise.all([this.level.close(), ...this.peaks.map((file) => file.close())]);
  }
}

/** A curve file whose parts are written side by side, and whose header comes last, when the number of samples is known. */
class CurveFile {
  private readonly file: number;
  private bytes = 0;

  constructor(
    path: string,
    private readonly header: Omit<CurveHeader, 'count'>,
  ) {
    this.file = openSync(path, 'w');
  }

  /** Takes samples in order, leaves out those of the first `lead` seconds and after the end, and puts the others in their place. */
  writer({ start, end }: Range, lead: Seconds): (samples: Uint8Array) => void {
    const { bytesPerSample, rateNum, rateDen } = this.header;
    const bytesIn = (seconds: Seconds) => Math.round((seconds * rateNum) / rateDen) * bytesPerSample;
    const [first, last] = [bytesIn(start), bytesIn(end)];
    let at = first - bytesIn(lead);
    return (samples) => {
      const wanted = samples.subarray(Math.max(0, first - at), Math.max(0, last - at));
      const place = Math.max(first, at);
      at += samples.length;
      if (wanted.length === 0) return;
      writeSync(this.file, wanted, 0, wanted.length, HEADER_BYTES + place);
      this.bytes = Math.max(this.bytes, place + wanted.length);
    };
  }

  async close(): Promise<void> {
    const count = this.bytes / this.header.bytesPerSample;
    writeSync(this.file, encodeHeader({ ...this.header, count }), 0, HEADER_BYTES, 0);
    await promisify(fsync)(this.file);
    closeSync(this.file);
  }
}
