import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { numbers } from './hostile.ts';
import { makeTalk, makeVideo } from './media.ts';

/** Files that are media no more: parts of some, torn, mixed, with wild numbers in their heads. */
export function hostileFiles(folder: string, count: number, seed: number): string[] {
  const next = numbers(seed);
  const whole = [
    makeTalk(join(folder, 'whole.wav'), [1, 0.5, 1]),
    makeVideo(join(folder, 'whole.mp4'), 4, '-c:v', 'libx264', '-c:a', 'aac'),
    makeVideo(join(folder, 'whole.mkv'), 4, '-c:v', 'libx264', '-c:a', 'flac'),
    makeTalk(join(folder, 'whole.ogg'), [1, 0.5, 1], '-c:a', 'libvorbis'),
  ].map((path) => ({ ending: path.split('.').at(-1) as string, bytes: readFileSync(path) }));
  const wild = join(folder, 'wild.mkv');
  execFileSync('ffmpeg', [
    ...['-v', 'error', '-y', '-i', join(folder, 'whole.wav'), '-c:a', 'libvorbis'],
    ...['-bsf:a', "setts=ts='if(eq(N,60),TS+4000000,TS)'", wild],
  ]);
  const runaway = readFileSync(wild);
  const at = runaway.indexOf(Buffer.from([0x44, 0x89, 0x88]));
  runaway.writeDoubleBE(2500, at + 3);
  whole.push({ ending: 'mkv', bytes: runaway });
  return Array.from({ length: count }, (_, k) => {
    const { ending, bytes } = whole[Math.floor(next() * whole.length)] as (typeof whole)[number];
    const other = whole[Math.floor(next() * whole.length)] as (typeof whole)[number];
    const spoilt = Buffer.from(bytes);
    const way = k % 5;
    if (way === 0)
      for (let n = 0; n < 40; n++) spoilt[Math.floor(next() * Math.min(2000, spoilt.length))] = Math.floor(next() * 256);
    if (way === 1) spoilt.writeUInt32BE(0xffffffff, Math.floor(next() * Math.min(400, spoilt.length - 4)));
    const made =
      way === 2
        ? spoilt.subarray(0, Math.floor(next() * spoilt.length))
        : way === 3
          ? Buffer.concat([spoilt.subarray(0, 3000), other.bytes.subarray(Math.floor(next() * other.bytes.length))])
          : spoilt;
    const path = join(folder, `hostile-${k}.${ending}`);
    writeFileSync(path, made);
    return path;
  });
}
