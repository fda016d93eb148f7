import { execa } from 'execa';
import type { MediaFacts } from '@/core/contract/media.ts';
import { SOUND_PART_SECONDS, SOUND_RATE } from '@/core/contract/sound.ts';
import { Refusal } from '../refusal.ts';
import { BOUNDS_FOR_A_LOOK, bounded } from './bounds.ts';
import { type HeardTrack, heardThrough } from './channels.ts';
import { inputArguments } from './ffmpeg.ts';

export { SOUND_PART_SECONDS };

/** A filter that mixes all tracks of a file into `[mix]`, none lowered, gaps filled with silence. */
export function mixOf({ audio }: { readonly audio: readonly HeardTrack[] }): string {
  const filled = audio.map((track, k) => `[0:${track.index}]${heardThrough(track, SOUND_RATE)}[t${k}]`);
  const mixed =
    audio.length === 1
      ? '[t0]anull[mix]'
      : `${audio.map((_, k) => `[t${k}]`).join('')}amix=inputs=${audio.length}:normalize=0[mix]`;
  return [...filled, mixed].join(';');
}

/**
 * One part of a file's sound for listening: all tracks mixed without lowering each, two channels at most, FLAC.
 * Cut by decoding, so that parts join without a gap in any source format.
 */
export async function soundPart(
  path: string,
  facts: MediaFacts,
  part: number,
  signal: AbortSignal,
): Promise<Uint8Array<ArrayBuffer>> {
  const channels = facts.audio.length > 1 || facts.audio.some((track) => track.channels > 1) ? 2 : 1;
  const { stdout, failed } = await execa(
    // biome-ignore format: one option and its value a pair
    ...bounded('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-ss', String(part * SOUND_PART_SECONDS), '-t', String(SOUND_PART_SECONDS),
      ...inputArguments(path), '-filter_complex', mixOf(facts), '-map', '[mix]', '-ac', String(channels),
      '-sample_fmt', 's16', '-c:a', 'flac', '-compression_level', '2', '-f', 'flac', 'pipe:1'], BOUNDS_FOR_A_LOOK),
    { encoding: 'buffer', reject: false, timeout: 30_000, maxBuffer: 16_000_000, cancelSignal: signal },
  );
  if (failed) throw new Refusal(422, 'The sound cannot be decoded here.');
  return new Uint8Array(stdout);
}
