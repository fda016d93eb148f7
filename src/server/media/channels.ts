import { execa } from 'execa';
import type { MediaFacts } from '@/core/contract/media.ts';
import { areOpposed } from '@/core/curves/opposed.ts';
import type { Seconds } from '@/core/time/range.ts';
import { BOUNDS_FOR_A_LOOK, bounded } from './bounds.ts';
import { inputArguments } from './ffmpeg.ts';

/** What has to be known of a track of a file to hear it. */
export type HeardTrack = Pick<MediaFacts['audio'][number], 'index' | 'opposed'>;

/**
 * The filters that a track is heard through, whatever is done with it: where its channels cancel each other the second is turned over,
 * and gaps between packets become silence, so that a sample's place in the stream is its time in the file.
 * @param resampling further options of ffmpeg's `aresample`, a rate first
 */
export const heardThrough = ({ opposed }: Pick<HeardTrack, 'opposed'>, ...resampling: readonly (string | number)[]): string =>
  `${opposed ? 'pan=stereo|c0=c0|c1=-1*c1,' : ''}aresample=${[...resampling, 'async=1', 'first_pts=0'].join(':')}`;

/** Channels are listened to at so many places, evenly over the whole, for so long each. */
const PLACES = 6;
const EACH: Seconds = 3;
const RATE = 8000;

/** Whether the two channels of a track cancel each other: false too where they cannot be read, which whoever measures them will tell. */
export async function hasOpposedChannels(path: string, index: number, duration: Seconds): Promise<boolean> {
  const [places, each] = duration > PLACES * EACH ? [PLACES, EACH] : [1, PLACES * EACH];
  const inputs = Array.from({ length: places }, (_, k) => [
    ...['-ss', String(Math.max(0, ((k + 0.5) / places) * duration - each / 2)), '-t', String(each)],
    ...inputArguments(path),
  ]);
  const parts = inputs.map((_, k) => `[${k}:${index}]`).join('');
  const { stdout, failed } = await execa(
    // biome-ignore format: one option and its value a pair
    ...bounded('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', ...inputs.flat(),
      '-filter_complex', `${parts}concat=n=${places}:v=0:a=1[all]`, '-map', '[all]',
      '-ac', '2', '-ar', String(RATE), '-f', 's16le', 'pipe:1'], BOUNDS_FOR_A_LOOK),
    { encoding: 'buffer', reject: false, timeout: 60_000, maxBuffer: 8_000_000 },
  );
  if (failed) return false;
  const bytes = Buffer.from(stdout);
  return areOpposed(Int16Array.from({ length: bytes.length >> 1 }, (_, k) => bytes.readInt16LE(2 * k)));
}
