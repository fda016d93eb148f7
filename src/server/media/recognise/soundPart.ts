import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execa } from 'execa';
import type { Range } from '@/core/time/range.ts';
import { beyondBounds, bounded, boundsForSoundFile } from '../bounds.ts';
import { type HeardTrack, heardThrough } from '../channels.ts';
import { inputArguments, MediaError } from '../ffmpeg.ts';
import { mixOf } from '../sound.ts';

/**
 * Lets somebody listen to a part of a recording: a WAV file of 16 kHz, one channel, which is gone afterwards.
 * @param tracks what is heard of it, several mixed as for playback
 * @throws MediaError when it cannot be decoded, AbortError when it was cancelled
 */
export async function soundPart<T>(
  path: string,
  tracks: readonly [HeardTrack, ...HeardTrack[]],
  { start, end }: Range,
  signal: AbortSignal | undefined,
  listen: (wav: string) => Promise<T>,
): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'zetemis-part-'));
  try {
    const to = join(folder, 'part.wav');
    const [track, ...more] = tracks;
    const heard =
      more.length === 0
        ? ['-map', `0:${track.index}`, '-af', heardThrough(track)]
        : ['-filter_complex', mixOf({ audio: tracks }), '-map', '[mix]'];
    const ended = await execa(
      // biome-ignore format: one option and its value a pair
      ...bounded('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-ss', start.toFixed(3), '-t', (end - start).toFixed(3),
        ...inputArguments(path), ...heard, '-ac', '1', '-ar', '16000',
        '-sample_fmt', 's16', '-bitexact', '-f', 'wav', to], boundsForSoundFile(end - start)),
      { reject: false, timeout: 60_000 + 100 * (end - start), ...(signal && { cancelSignal: signal }) },
    );
    if (signal?.aborted) throw new DOMException('recognising was cancelled', 'AbortError');
    if (ended.failed) throw new MediaError(['The sound cannot be decoded.', beyondBounds(ended)].filter(Boolean).join(' '));
    return await listen(to);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
