import { rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { MediaFacts } from '@/core/contract/media.ts';
import { encodeHeader } from '@/core/curves/codec.ts';
import { curveFileOf } from '@/core/curves/measures.ts';
import { MOTION_HEIGHT, MOTION_RATE, MOTION_WIDTH, motionCode } from '@/core/curves/motion.ts';
import { boundsForPicture } from './bounds.ts';
import { checkEnded, inputArguments, MediaError, NOT_AS_TOLD, startFfmpeg } from './ffmpeg.ts';
import type { MeasureOptions } from './measure.ts';

/**
 * Measures how much of the picture changes, a few small grey pictures a second, into the folder of the other curves.
 * @throws MediaError when the picture cannot be decoded
 */
export async function measureMotion(
  path: string,
  facts: MediaFacts,
  folder: string,
  options: MeasureOptions = {},
): Promise<void> {
  const { video, duration } = facts;
  if (!video) throw new MediaError('There is no picture in this file.');
  const { running, outputs } = startFfmpeg(
    [
      // Frames between the compared ones need not be decoded where nothing refers to them.
      ...['-skip_frame', 'noref', ...inputArguments(path), '-map', `0:${video.index}`, '-an', '-sn', '-dn'],
      ...['-vf', `fps=${MOTION_RATE}:start_time=0,scale=${MOTION_WIDTH}:${MOTION_HEIGHT}:flags=area,format=gray`],
      ...['-f', 'rawvideo', 'pipe:3'],
    ],
    1,
    boundsForPicture(duration),
    options.signal,
  );
  const size = MOTION_WIDTH * MOTION_HEIGHT;
  const codes: number[] = [];
  let before: Uint8Array | undefined;
  const most = duration > 0 ? (1.05 * duration + 60) * MOTION_RATE : Number.POSITIVE_INFINITY;
  let rest = Buffer.alloc(0);
  for await (const chunk of outputs[0] as NodeJS.ReadableStream) {
    rest = Buffer.concat([rest, chunk as Buffer]);
    for (; rest.length >= size; rest = rest.subarray(size)) {
      const picture = rest.subarray(0, size);
      codes.push(before ? motionCode(before, picture) : 0);
      before = Uint8Array.from(picture);
    }
    if (codes.length > most) {
      running.kill('SIGKILL');
      throw new MediaError(NOT_AS_TOLD);
    }
    if (duration > 0) options.onProgress?.(codes.length / MOTION_RATE);
  }
  const ended = await running;
  if (options.signal?.aborted) throw new DOMException('measuring was cancelled', 'AbortError');
  checkEnded(ended, 'The picture cannot be decoded; pauses are found all the same.');
  const header = encodeHeader({ kind: 'motion', bytesPerSample: 1, rateNum: MOTION_RATE, rateDen: 1, count: codes.length });
  const target = join(folder, curveFileOf('motion'));
  await writeFile(`${target}.part`, Buffer.concat([header, Uint8Array.from(codes)]), { flush: true });
  await rename(`${target}.part`, target);
}
