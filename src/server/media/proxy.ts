import { rename, rm } from 'node:fs/promises';
import type { MediaFacts } from '@/core/contract/media.ts';
import { nominalRate, parseRate } from '@/core/time/rate.ts';
import { boundsForPicture } from './bounds.ts';
import { checkEnded, inputArguments, MediaError, progressOf, startFfmpeg } from './ffmpeg.ts';
import type { MeasureOptions } from './measure.ts';

/**
 * Makes a picture that a browser plays, for originals that it does not: H.264, at most 720 lines, a key frame each
 * half second so that jumping is quick, the original's own time stamps, no sound (that is served apart).
 * @throws MediaError when the picture cannot be decoded
 */
export async function makeProxy(path: string, facts: MediaFacts, target: string, options: MeasureOptions = {}): Promise<void> {
  const { video } = facts;
  if (!video) throw new MediaError('There is no picture in this file.');
  const work = `${target}.part`;
  const keyFrames = Math.max(1, Math.round(nominalRate(parseRate(video.rate)) / 2));
  const { running, outputs } = startFfmpeg(
    [
      ...['-progress', 'pipe:3', '-y', ...inputArguments(path), '-map', `0:${video.index}`, '-an', '-sn', '-dn'],
      ...['-vf', "scale='min(1280,iw)':'min(720,ih)':force_original_aspect_ratio=decrease:force_divisible_by=2,format=yuv420p"],
      ...['-fps_mode', 'passthrough', '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '26', '-g', String(keyFrames)],
      ...['-movflags', '+faststart', '-f', 'mp4', work],
    ],
    1,
    boundsForPicture(facts.duration),
    options.signal,
  );
  for await (const { seconds } of progressOf(outputs[0] as NodeJS.ReadableStream))
    if (seconds !== undefined && facts.duration > 0) options.onProgress?.(seconds / facts.duration);
  const ended = await running;
  try {
    if (options.signal?.aborted) throw new DOMException('making the picture was cancelled', 'AbortError');
    checkEnded(ended, 'The picture cannot be decoded; the sound can still be cut.');
  } catch (error) {
    await rm(work, { force: true });
    throw error;
  }
  await rename(work, target);
}
