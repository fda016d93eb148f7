import type { Seconds } from '@/core/time/range.ts';
import { boundsForSound } from './bounds.ts';
import { type HeardTrack, heardThrough } from './channels.ts';
import { checkEnded, inputArguments, startFfmpeg } from './ffmpeg.ts';

/** Samples a second of all sound that is measured for speech, pitch and likeness. */
const RATE = 16_000;

/**
 * One track of a file as 16-bit samples, 16,000 a second, its gaps filled with silence.
 * @param seconds how long the file says it is
 * @throws MediaError
 */
export const decoded = (
  path: string,
  track: HeardTrack,
  seconds: number,
  signal: AbortSignal | undefined,
): AsyncGenerator<Buffer> =>
  rawSound(
    path,
    // biome-ignore format: one option and its value a pair
    ['-map', `0:${track.index}`, '-af', heardThrough(track), '-ar', String(RATE), '-ac', '1', '-f', 's16le'],
    seconds,
    signal,
  );

/** Samples in -1..1 of chunks that may end in the middle of one. */
export async function* samplesOf(chunks: AsyncIterable<Buffer>): AsyncGenerator<Float64Array> {
  let rest: Buffer = Buffer.alloc(0);
  for await (const chunk of chunks) {
    const bytes = rest.length > 0 ? Buffer.concat([rest, chunk]) : chunk;
    const count = bytes.length >> 1;
    rest = bytes.subarray(2 * count);
    yield Float64Array.from({ length: count }, (_, k) => bytes.readInt16LE(2 * k) / 32_768);
  }
}

/**
 * Sound of a file as it is decoded, in chunks that may end anywhere.
 * @param format options of ffmpeg that say which sound, and in what form
 * @param only a part of it
 * @throws MediaError when it cannot be decoded, AbortError when it was cancelled
 */
export async function* rawSound(
  path: string,
  format: readonly string[],
  seconds: number,
  signal: AbortSignal | undefined,
  only?: { readonly from: Seconds; readonly length: Seconds },
): AsyncGenerator<Buffer> {
  const part = only ? ['-ss', String(only.from), '-t', String(only.length)] : [];
  const options = [...part, ...inputArguments(path), ...format, '-flush_packets', '0', 'pipe:3'];
  const { running, outputs } = startFfmpeg(options, 1, boundsForSound(seconds), signal);
  for await (const chunk of outputs[0] as NodeJS.ReadableStream) yield chunk as Buffer;
  const ended = await running;
  if (signal?.aborted) throw new DOMException('decoding was cancelled', 'AbortError');
  checkEnded(ended, 'The sound cannot be decoded.');
}
