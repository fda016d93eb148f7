import { readFileSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execa } from 'execa';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { align } from '@/core/sync/align.ts';
import { probe } from '@/server/media/probe.ts';
import { bringTogether, type FilePart, titlesOf } from '@/server/media/together/bringTogether.ts';
import { listenedTo } from '@/server/media/together/listened.ts';
import { hearPart, makeRoom } from '../media.ts';

const LENGTH = 40;
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'together-'));
  const room = makeRoom(join(folder, 'room.wav'), LENGTH + 10);
  const pictures = `testsrc2=size=320x180:rate=25:duration=${LENGTH}`;
  const encoding = '-pix_fmt yuv420p -c:v libx264 -preset ultrafast -c:a aac -b:a 96k -timecode 10:00:00:00'.split(' ');
  const heard = hearPart(room, 4, LENGTH, join(folder, 'heard.wav'));
  await ffmpeg('-f', 'lavfi', '-i', pictures, '-i', heard, ...encoding, 'camera.mov');
  hearPart(room, 2.5, 25, join(folder, 'recorder.wav'));
}, 60_000);
afterAll(() => rm(folder, { recursive: true, force: true }));

const ffmpeg = (...options: string[]) => execa('ffmpeg', ['-v', 'error', '-y', ...options], { cwd: folder });
const partOf = async (name: string, place = 0, drift = 0, sound = true): Promise<FilePart> => {
  const path = join(folder, name);
  return { path, name, facts: await probe(path), place, drift, sound };
};

/** Moments of the clicks of a track, in seconds. */
async function clicksOf(name: string, track: number): Promise<number[]> {
  const { stdout } = await execa(
    'ffmpeg',
    ['-v', 'error', '-i', join(folder, name), '-map', `0:a:${track}`, '-ac', '1', '-ar', '48000', '-f', 's16le', '-'],
    { encoding: 'buffer', maxBuffer: 100_000_000 },
  );
  const bytes = Buffer.from(stdout);
  const found: number[] = [];
  for (let k = 0; k < bytes.length / 2; k++)
    if (Math.abs(bytes.readInt16LE(2 * k)) > 6_000 && k / 48_000 - (found.at(-1) ?? -1) > 0.5) found.push(k / 48_000);
  return found;
}

describe('files that ran together', () => {
  it('are laid on one another by their sound and written as one, picture untouched, each click at one moment', async () => {
    const [camera, recorder] = await Promise.all([partOf('camera.mov'), partOf('recorder.wav')]);
    const fit = await align(await listenedTo(camera.path, camera.facts), await listenedTo(recorder.path, recorder.facts));
    expect(fit?.place).toBeCloseTo(-1.5, 3);
    await bringTogether([camera, { ...recorder, ...fit }], LENGTH, join(folder, 'both.mp4'));
    const facts = await probe(join(folder, 'both.mp4'));
    expect(facts.duration).toBeCloseTo(LENGTH, 1);
    expect(facts.audio.map(({ codec, sampleRate }) => [codec, sampleRate])).toEqual([
      ['flac', 44_100],
      ['flac', 44_100],
    ]);
    expect(titlesOf([camera, recorder])).toEqual(['camera', 'recorder']);
    expect(facts.video?.playable).toBe(true);
    const [own, beside] = [await clicksOf('both.mp4', 0), await clicksOf('both.mp4', 1)];
    expect(own.length).toBeGreaterThanOrEqual(LENGTH - 1);
    // The recorder was switched off again after 23.5 seconds of the camera.
    expect(beside.length).toBe(own.filter((at) => at < 23.4).length);
    for (const [k, at] of beside.entries()) expect(Math.abs(at - (own[k] as number))).toBeLessThan(0.001);
    const pictures = (name: string) =>
      execa('ffmpeg', ['-v', 'error', '-i', join(folder, name), '-map', '0:v', '-c', 'copy', '-f', 'framemd5', '-'], {}).then(
        ({ stdout }) => stdout.split('\n').filter((line) => !line.startsWith('#')),
      );
    const digests = (lines: readonly string[]) => lines.map((line) => line.split(',').at(-1));
    expect(digests(await pictures('both.mp4'))).toEqual(digests(await pictures('camera.mov')));
  }, 60_000);

  it('keep the clock of the first however fast another ran, and its sound instead of that of the first', async () => {
    const [camera, recorder] = await Promise.all([partOf('camera.mov', 0, 0, false), partOf('recorder.wav', 5, 0.001)]);
    await bringTogether([camera, recorder], LENGTH, join(folder, 'instead.mp4'));
    expect((await probe(join(folder, 'instead.mp4'))).audio.map(({ sampleRate }) => sampleRate)).toEqual([44_100]);
    const before = await clicksOf('recorder.wav', 0);
    const after = await clicksOf('instead.mp4', 0);
    expect(after.length).toBe(before.length);
    for (const [k, at] of after.entries()) expect(Math.abs(at - (5 + (before[k] as number) / 1.001))).toBeLessThan(0.0002);
  }, 60_000);

  it('are one recording on the command line, and each is referred to where it lies', async () => {
    const root = join(import.meta.dirname, '../..');
    const target = join(folder, 'list.xml');
    const { stderr } = await execa(
      join(root, 'bin/zetemis'),
      ['export', join(folder, 'camera.mov'), join(folder, 'recorder.wav'), '--together', '--no-speech', '--to', target],
      { cwd: root },
    );
    expect(stderr).toMatch(/recorder\.wav begins at -1\.500 s, by its sound/);
    const places = [...readFileSync(target, 'utf8').matchAll(/<pathurl>([^<]*)/g)].map(([, path]) => path);
    expect(places).toEqual(['camera.mov', 'recorder.wav']);
    // Another picture has a track of its own, which is switched off: nobody has chosen it.
    await ffmpeg('-f', 'lavfi', '-i', 'testsrc2=size=160x90:rate=25:duration=20', '-c:v', 'mpeg4', '-an', 'screen.mkv');
    const files = [join(folder, 'camera.mov'), join(folder, 'screen.mkv')];
    await execa(join(root, 'bin/zetemis'), ['export', ...files, '--together', '--no-speech', '--to', target], { cwd: root });
    const clips = [
      ...readFileSync(target, 'utf8').matchAll(/<clipitem id="v2-\d+">\s*<name>screen\.mkv<\/name>\s*<enabled>FALSE/g),
    ];
    expect(clips.length).toBeGreaterThan(0);
  }, 60_000);
});
