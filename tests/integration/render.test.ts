import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { SOUND_RATE } from '@/core/contract/sound.ts';
import { programmeOf } from '@/core/programme/programme.ts';
import { renderProgramme } from '@/core/render/programmeSound.ts';
import type { SampleSource } from '@/core/render/sampleSource.ts';
import { probe } from '@/server/media/probe.ts';
import { renderSound } from '@/server/media/render/renderSound.ts';
import { folderFor } from '../media.ts';

const folder = folderFor('render');
const LENGTH = 60;

/** A sound whose pitch rises all the time, so that every moment of it is another. */
function made(name: string, expression: string): string {
  const path = join(folder, name);
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', `aevalsrc=${expression}:s=48000:d=${LENGTH}`, path]);
  return path;
}
const rising = made('rising.wav', '0.4*sin(2*PI*(200+10*t)*t)|0.4*sin(2*PI*(300+7*t)*t)');

const samplesOf = (path: string): Int16Array => {
  const bytes = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-ac', '2', '-ar', '48000', '-f', 's16le', '-'], {
    maxBuffer: 1e9,
  });
  return new Int16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
};

/** All of a file in memory, put on the clock. */
const inMemory = (path: string): SampleSource => {
  const samples = samplesOf(path);
  return {
    async copy(from, to, out, at) {
      for (let k = from; k < to; k++)
        for (const channel of [0, 1]) out[2 * (at + k - from) + channel] = (samples[2 * k + channel] ?? 0) / 32_768;
    },
    once: (_, work) => work(),
  };
};

const piece = (start: number, end: number) => ({ start, end, rate: 1 });
const MOVED = programmeOf([
  piece(40, 44.5),
  piece(2, 9.25),
  piece(9.75, 12),
  { ...piece(20, 22), hole: true as const },
  piece(50.123, 55),
]);
const HURRIED = programmeOf([piece(1, 3), { ...piece(3, 15), rate: 4, sound: 'pitch' as const }, piece(15, 17)]);

describe('rendered sound', () => {
  it.each([
    ['with passages moved, a hole and seams', MOVED],
    ['with a hurried part', HURRIED],
  ])('is what the page plays, sample for sample: %s', async (_, programme) => {
    const to = join(folder, 'out.wav');
    const facts = await probe(rising);
    const shares: number[] = [];
    await renderSound([{ path: rising, facts, start: 0, end: LENGTH }], programme, to, {
      title: 'Rising',
      crossfade: 0.01,
      onProgress: (share) => shares.push(share),
    });
    const expected = await renderProgramme(programme, inMemory(rising), 0, Math.round(programme.length * SOUND_RATE), 0.01);
    const rendered = samplesOf(to);
    expect(rendered.length).toBe(expected.length);
    let most = 0;
    for (let k = 0; k < expected.length; k++)
      most = Math.max(most, Math.abs((rendered[k] as number) - 32_768 * (expected[k] as number)));
    // What is faded is rounded to 16 bits once more.
    expect(most).toBeLessThanOrEqual(1);
    expect(shares.at(-1)).toBe(1);
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
  });

  it.each(['.flac', '.mp3', '.m4a', '.opus'])('as long as the programme and titled, as %s', async (ending) => {
    const to = join(folder, `out${ending}`);
    const title = 'The lamp; = "room"\n#1';
    const facts = await probe(rising);
    await renderSound([{ path: rising, facts, start: 0, end: LENGTH }], MOVED, to, { title, crossfade: 0.01 });
    const told = JSON.parse(
      execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_format', '-show_streams', to], { encoding: 'utf8' }),
    );
    expect(Math.abs(Number(told.format.duration) - MOVED.length)).toBeLessThan(0.08);
    const tags = { ...told.format.tags, ...told.streams[0].tags };
    expect(tags.title ?? tags.TITLE).toContain('The lamp; = "room"');
  });

  it('of several recordings takes each from its place on the clock', async () => {
    const low = made('low.wav', '0.3*sin(2*PI*110*t)|0.3*sin(2*PI*110*t)');
    const to = join(folder, 'two.wav');
    const second = LENGTH + 2;
    const sources = await Promise.all(
      [rising, low].map(async (path, k) => ({ path, facts: await probe(path), start: k * second, end: k * second + LENGTH })),
    );
    await renderSound(sources, programmeOf([piece(second + 5, second + 6), piece(10, 11)]), to, { title: 'Two', crossfade: 0 });
    const [rendered, first, other] = [samplesOf(to), samplesOf(rising), samplesOf(low)];
    expect(rendered.slice(0, 2000)).toEqual(other.slice(2 * 5 * SOUND_RATE, 2 * 5 * SOUND_RATE + 2000));
    expect(rendered.slice(2 * SOUND_RATE, 2 * SOUND_RATE + 2000)).toEqual(
      first.slice(2 * 10 * SOUND_RATE, 2 * 10 * SOUND_RATE + 2000),
    );
  });

  it('that fails or is cancelled leaves nothing behind, and what was there stays', async () => {
    const to = join(folder, 'kept.wav');
    writeFileSync(to, 'as it was');
    const facts = await probe(rising);
    const cancelled = new AbortController();
    const rendering = renderSound([{ path: rising, facts, start: 0, end: LENGTH }], MOVED, to, {
      title: '',
      crossfade: 0.01,
      signal: cancelled.signal,
      onProgress: (share) => share > 0.5 && cancelled.abort(),
    });
    await expect(rendering).rejects.toThrow(/cancelled/);
    const broken = join(folder, 'broken.wav');
    writeFileSync(broken, 'RIFF and nothing else');
    await expect(
      renderSound([{ path: broken, facts, start: 0, end: LENGTH }], MOVED, to, { title: '', crossfade: 0.01 }),
    ).rejects.toThrow(/cannot be decoded/);
    await expect(
      renderSound([{ path: rising, facts, start: 0, end: LENGTH }], MOVED, join(folder, 'none', 'x.wav'), {
        title: '',
        crossfade: 0,
      }),
    ).rejects.toThrow(/could not be written/);
    await expect(
      renderSound([{ path: rising, facts, start: 0, end: LENGTH }], programmeOf([]), to, { title: '', crossfade: 0 }),
    ).rejects.toThrow(/Nothing is left/);
    expect(readFileSync(to, 'utf8')).toBe('as it was');
    expect(readdirSync(folder).filter((name) => name.endsWith('.part'))).toEqual([]);
  });

  it('comes from the command line in one go, and another ending is refused before anything is measured', () => {
    const to = join(folder, 'from-command.mp3');
    const zetemis = (...options: string[]) =>
      execFileSync('bin/zetemis', ['render', ...options], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
    expect(zetemis(rising, '--to', to)).toContain('s of sound');
    expect(existsSync(to)).toBe(true);
    expect(() => zetemis(rising, '--to', join(folder, 'x.doc'))).toThrow(/ends in .wav/);
  });
});
