import { rename, rm } from 'node:fs/promises';
import { extname } from 'node:path';
import { execa } from 'execa';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import type { Programme } from '@/core/programme/programme.ts';
import { renderProgramme } from '@/core/render/programmeSound.ts';
import type { Seconds } from '@/core/time/range.ts';
import { bounded, boundsForSoundFile } from '../bounds.ts';
import { MediaError } from '../ffmpeg.ts';
import { ClockSamples, type SoundFile } from './clockSamples.ts';

/** How sound is encoded, by the ending of its file. A new format is a line here. */
const ENCODERS: Readonly<Record<string, { readonly format: string; readonly options: readonly string[] }>> = {
  '.wav': { format: 'wav', options: ['-c:a', 'pcm_s16le', '-rf64', 'auto'] },
  '.flac': { format: 'flac', options: ['-c:a', 'flac'] },
  '.mp3': { format: 'mp3', options: ['-c:a', 'libmp3lame', '-q:a', '2'] },
  '.m4a': { format: 'ipod', options: ['-c:a', 'aac', '-b:a', '192k', '-movflags', '+faststart'] },
  '.opus': { format: 'opus', options: ['-c:a', 'libopus', '-b:a', '128k'] },
};

export const SOUND_ENDINGS: readonly string[] = Object.keys(ENCODERS);

/** How a file is encoded. @throws MediaError that names the endings there are */
export function encoderFor(to: string): (typeof ENCODERS)[string] {
  const encoder = ENCODERS[extname(to).toLowerCase()];
  if (!encoder) throw new MediaError(`A rendered sound ends in ${SOUND_ENDINGS.join(', ')}.`);
  return encoder;
}

/** Programme samples that are rendered at a time. */
const BLOCK = SOUND_RATE;

export interface RenderChoices {
  readonly title: string;
  /** seconds that one side of a seam fades into the other */
  readonly crossfade: Seconds;
  /** told the share that is done, 0..1 */
  readonly onProgress?: (share: number) => void;
  readonly signal?: AbortSignal;
}

/**
 * Renders the sound of a programme to a file: one decode of each recording, one encode, joins exact to the sample, as it is heard in the
 * page. The file is there when it is whole; one of that name is replaced then.
 * @throws MediaError when a recording cannot be decoded, or the file not written
 */
export async function renderSound(
  files: readonly SoundFile[],
  programme: Programme,
  to: string,
  { title, crossfade, onProgress, signal = new AbortController().signal }: RenderChoices,
): Promise<void> {
  const encoder = encoderFor(to);
  if (programme.length === 0) throw new MediaError('Nothing is left of the recording: there is no sound to render.');
  const part = `${to}.part`;
  const samples = new ClockSamples(files, signal);
  const encoding = execa(
    // biome-ignore format: one option and its value a pair
    ...bounded('ffmpeg', ['-hide_banner', '-v', 'error', '-y', '-f', 'f32le', '-ar', String(SOUND_RATE), '-ac', '2', '-i', 'pipe:0',
      '-map_metadata', '-1', '-metadata', `title=${title}`, ...encoder.options, '-f', encoder.format, `file:${part}`],
      boundsForSoundFile(programme.length)),
    { stdin: 'pipe', reject: false, cancelSignal: signal },
  );
  try {
    encoding.stdin.on('error', () => {});
    const total = Math.round(programme.length * SOUND_RATE);
    for (let at = 0; at < total; at += BLOCK) {
      const block = await renderProgramme(programme, samples, at, BLOCK, crossfade);
      if (signal.aborted || encoding.stdin.destroyed) break;
      if (!encoding.stdin.write(Buffer.from(block.buffer, block.byteOffset, block.byteLength)))
        await Promise.race([new Promise((resolve) => encoding.stdin.once('drain', resolve)), encoding]);
      onProgress?.(Math.min(1, (at + BLOCK) / total));
    }
    encoding.stdin.end();
    const ended = await encoding;
    if (signal.aborted) throw new DOMException('rendering was cancelled', 'AbortError');
    if (ended.exitCode !== 0)
      throw new MediaError(`The sound could not be written. ${String(ended.stderr).split('\n').at(-1) ?? ''}`.trim());
    await rename(part, to);
  } finally {
    samples.close();
    encoding.kill();
    await rm(part, { force: true });
  }
}
