import { createWriteStream } from 'node:fs';
import { mkdir, open, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { finished } from 'node:stream/promises';
import type { MediaFacts } from '@/core/contract/media.ts';
import { type CurveHeader, encodeHeader, HEADER_BYTES } from '@/core/curves/codec.ts';
import { LEVEL_RATE } from '@/core/curves/level.ts';
import { TrackMeter } from '@/core/curves/meter.ts';
import { PEAK_BASE_RATE, PEAK_FACTOR, PEAK_LAYERS } from '@/core/curves/peaks.ts';
import { inputArguments, MediaError, startFfmpeg } from './ffmpeg.ts';

export const levelFile = (track: number): string => `level-${track}.ztcv`;
export const peaksFile = (track: number, layer: number): string => `peaks-${track}-${layer}.ztcv`;

export interface MeasureOptions {
  /** told how many seconds are measured, a few times a second at most */
  readonly onProgress?: (seconds: number) => void;
  readonly signal?: AbortSignal;
}

/** How often progress is told. */
const PROGRESS_BYTES = 4_000_000;

/**
 * Measures all audio tracks of a file in one pass of ffmpeg, and writes their curves into a new folder. The folder
 * appears whole or not at all. Memory does not grow with the length.
 * @returns the measured length in seconds, that of the longest track
 * @throws MediaError when the sound cannot be decoded
 */
export async function measure(path: string, facts: MediaFacts, folder: string, options: MeasureOptions = {}): Promise<number> {
  const work = `${folder}.part`;
  await rm(work, { recursive: true, force: true });
  await mkdir(work, { recursive: true });
  try {
    const tracks = facts.audio.map(({ sampleRate }, track) => new TrackFiles(work, track, sampleRate));
    const outputs = facts.audio.flatMap(({ index }, track) => [
      // Gaps between packets become silence, so that a sample's place in the stream is its time in the file.
      ...['-map', `0:${index}`, '-af', 'aresample=async=1:first_pts=0', '-ac', '1', '-flush_packets', '0'],
      ...['-f', 's16le', `pipe:${track + 3}`],
    ]);
    const decoding = startFfmpeg([...inputArguments(path), ...outputs], tracks.length, options.signal);
    await Promise.all(
      tracks.map((track, k) =>
        track.consume(decoding.outputs[k] as NodeJS.ReadableStream, k === 0 ? options.onProgress : undefined),
      ),
    );
    const { exitCode, stderr, isCanceled } = await decoding.running;
    if (isCanceled || options.signal?.aborted) throw new DOMException('measuring was cancelled', 'AbortError');
    const longest = Math.max(...tracks.map((track) => track.seconds));
    if (exitCode !== 0 || longest === 0)
      throw new MediaError(`The sound cannot be decoded: ${stderr.split('\n')[0]?.replace(path, 'the file') || 'no samples'}`);
    for (const track of tracks) await track.close();
    await rm(folder, { recursive: true, force: true });
    await rename(work, folder);
    return longest;
  } catch (error) {
    await rm(work, { recursive: true, force: true });
    throw error;
  }
}

/** The curve files of one track while they are written. */
class TrackFiles {
  private readonly meter: TrackMeter;
  private readonly level: CurveFile;
  private readonly peaks: readonly CurveFile[];

  constructor(folder: string, track: number, sampleRate: number) {
    this.level = new CurveFile(join(folder, levelFile(track)), {
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
    this.meter = new TrackMeter(sampleRate, {
      level: (codes) => this.level.write(codes),
      peaks: (layer, pairs) => this.peaks[layer]?.write(new Uint8Array(pairs.buffer, pairs.byteOffset, pairs.byteLength)),
    });
  }

  get seconds(): number {
    return this.meter.seconds;
  }

  async consume(stream: NodeJS.ReadableStream, onProgress?: (seconds: number) => void): Promise<void> {
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
      this.meter.push(new Int16Array(aligned.buffer, aligned.byteOffset, whole / 2));
      bytes += whole;
      if (bytes - told > PROGRESS_BYTES) {
        told = bytes;
        onProgress?.(this.meter.seconds);
      }
    }
    this.meter.finish();
  }

  async close(): Promise<void> {
    await Promise.all([this.level.close(), ...this.peaks.map((file) => file.close())]);
  }
}

/** A curve file whose header is completed at the end, when the number of samples is known. */
class CurveFile {
  private readonly stream;
  private bytes = 0;

  constructor(
    private readonly path: string,
    private readonly header: Omit<CurveHeader, 'count'>,
  ) {
    this.stream = createWriteStream(path);
    this.stream.write(encodeHeader({ ...header, count: 0 }));
  }

  write(samples: Uint8Array): void {
    this.bytes += samples.byteLength;
    this.stream.write(samples);
  }

  async close(): Promise<void> {
    this.stream.end();
    await finished(this.stream);
    const file = await open(this.path, 'r+');
    const count = this.bytes / this.header.bytesPerSample;
    await file.write(encodeHeader({ ...this.header, count }), 0, HEADER_BYTES, 0);
    await file.sync();
    await file.close();
  }
}
