import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execa } from 'execa';
import { RATE } from '../../demo/speech.ts';
import type { Random } from './scenes.ts';

const CODECS: readonly (readonly [ending: string, ...options: string[]])[] = [
  ['flac'],
  ['flac'],
  ['mp3', '-b:a', '64k'],
  ['opus', '-b:a', '24k'],
  ['m4a', '-b:a', '64k'],
];

/**
 * Writes sound as a microphone and a file might have it: a room, a telephone band, a compressor, a level, a codec.
 * @param path without an ending
 * @param track at `RATE`
 */
export async function writeSound(path: string, track: Float32Array, random: Random): Promise<void> {
  const work = await mkdtemp(join(tmpdir(), 'recordings-'));
  const raw = join(work, 'raw');
  await writeFile(raw, Buffer.from(track.buffer, track.byteOffset, track.byteLength));
  const filters = [
    ...(random() < 0.3 ? [`aecho=0.9:0.6:${Math.round(20 + 40 * random())}:${(0.1 + 0.2 * random()).toFixed(2)}`] : []),
    ...(random() < 0.2 ? ['highpass=300,lowpass=3400'] : []),
    ...(random() < 0.25 ? ['acompressor=threshold=0.05:ratio=4:attack=20:release=400:makeup=2'] : []),
    `volume=${(-9 * random()).toFixed(1)}dB`,
  ];
  const [ending, ...codec] = CODECS[Math.floor(random() * CODECS.length)] as (typeof CODECS)[number];
  // biome-ignore format: one option and its value a pair
  await execa('ffmpeg', ['-v', 'error', '-y', '-f', 'f32le', '-ar', String(RATE), '-ac', '1', '-i', raw,
    '-af', filters.join(','), '-ar', ending === 'opus' ? '48000' : '32000', ...codec, `${path}.${ending}`]);
  await rm(work, { recursive: true });
}
