import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { SPEECH_RATE } from '@/core/curves/speech.ts';
import { readMotion, readSpeech } from '@/server/media/material.ts';
import { measure, STRETCH_UNIT } from '@/server/media/measure.ts';
import { measureMotion } from '@/server/media/motion.ts';
import { probe } from '@/server/media/probe.ts';
import { measureSpeech } from '@/server/media/speech.ts';
import { folderFor } from '../media.ts';

const DEMO = join(import.meta.dirname, '..', '..', 'demo', 'media');
const folder = folderFor('curves');
const truth = JSON.parse(readFileSync(join(DEMO, 'carriage-clock.truth.json'), 'utf8')) as {
  pauses: [number, number][];
  words: { start: number; end: number }[];
};
const fresh = (name: string): string => {
  const path = join(folder, name);
  mkdirSync(path);
  return path;
};
const through = async (path: string, name: string, options = {}) => {
  const facts = await probe(path);
  const into = fresh(name);
  await measureSpeech(path, facts, into, options);
  return (await readSpeech(into, facts.audio.length)).map(({ codes }) => codes);
};

describe('levels and peaks', () => {
  const measured = async (path: string, name: string, splits: readonly number[]) => {
    const into = join(folder, name);
    const length = await measure(path, await probe(path), into, { splits });
    return { length, files: readdirSync(into).map((file) => [file, readFileSync(join(into, file)).toString('base64')]) };
  };

  it('come out the same to the byte whether a file is read in one go or in stretches side by side', async () => {
    for (const rate of [48_000, 44_100, 22_050]) {
      const flac = join(folder, `${rate}.flac`);
      const lesson = join(DEMO, 'carriage-clock.mp4');
      execFileSync('ffmpeg', ['-v', 'error', '-i', lesson, '-vn', '-ac', '2', '-ar', String(rate), flac]);
      const whole = await measured(flac, `${rate}-whole`, []);
      expect(await measured(flac, `${rate}-halves`, [96])).toEqual(whole);
      expect(await measured(flac, `${rate}-parts`, [STRETCH_UNIT, 64, 192])).toEqual(whole);
      // A stretch that would begin after the end: the file is shorter than it says.
      expect(await measured(flac, `${rate}-beyond`, [96, 320])).toEqual(whole);
    }
  });

  it('leave nothing behind when a stretch cannot be decoded', async () => {
    const broken = join(folder, 'broken.flac');
    const bytes = readFileSync(join(folder, '48000.flac'));
    writeFileSync(broken, bytes);
    const facts = await probe(broken);
    writeFileSync(broken, 'not a recording any more');
    await expect(measure(broken, facts, join(folder, 'broken'), { splits: [96] })).rejects.toThrow('cannot be decoded');
    expect(readdirSync(folder).filter((name) => name.startsWith('broken'))).toEqual(['broken.flac']);
  });
});

describe('the probability of speech', () => {
  const lesson = join(DEMO, 'carriage-clock.mp4');

  it('is high in words, low in pauses, and as long as the recording', async () => {
    const [codes = new Uint8Array(0)] = await through(lesson, 'lesson');
    expect(Math.abs(codes.length / SPEECH_RATE - 199.04)).toBeLessThan(0.1);
    const mean = (from: number, to: number) => {
      const part = codes.slice(Math.ceil(from * SPEECH_RATE), Math.floor(to * SPEECH_RATE));
      return part.reduce((sum, code) => sum + code, 0) / part.length / 255;
    };
    const inWords = truth.words
      .filter(({ start, end }) => end - start > 0.3)
      .map(({ start, end }) => mean(start + 0.05, end - 0.05));
    const inPauses = truth.pauses.filter(([start, end]) => end - start > 1).map(([start, end]) => mean(start + 0.3, end - 0.2));
    const average = (values: number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;
    expect(average(inWords)).toBeGreaterThan(0.85);
    expect(average(inPauses)).toBeLessThan(0.1);
  });

  it('comes out the same in stretches side by side as run through from the start', async () => {
    const stretches = { count: 1, frames: Math.ceil(200 * SPEECH_RATE) };
    const [[side], [run]] = await Promise.all([through(lesson, 'side'), through(lesson, 'run', { stretches })]);
    const differences = Array.from(side ?? [], (code, k) => Math.abs(code - (run?.[k] ?? 0)) / 255);
    expect(differences.filter((difference) => difference > 0.02).length / differences.length).toBeLessThan(0.02);
    expect(differences.length).toBe(run?.length);
  });

  it('goes on where it was stopped, and ends up the same', async () => {
    const facts = await probe(lesson);
    const into = fresh('stopped');
    const stretches = { count: 2, frames: Math.ceil(30 * SPEECH_RATE) };
    const stop = new AbortController();
    const onProgress = (seconds: number) => seconds > 130 && stop.abort();
    await expect(measureSpeech(lesson, facts, into, { stretches, signal: stop.signal, onProgress })).rejects.toThrow(/cancelled/);
    expect(readdirSync(into)).toEqual(['speech-0.ztcv.part']);
    const finished = readFileSync(join(into, 'speech-0.ztcv.part')).length / SPEECH_RATE;
    expect(finished).toBeGreaterThanOrEqual(120);
    let first = Number.POSITIVE_INFINITY;
    await measureSpeech(lesson, facts, into, {
      stretches,
      onProgress: (seconds) => {
        first = Math.min(first, seconds);
      },
    });
    expect(first).toBeGreaterThanOrEqual(finished);
    expect(readdirSync(into)).toEqual(['speech-0.ztcv']);
    const [whole] = await through(lesson, 'whole', { stretches });
    expect((await readSpeech(into, 1))[0]?.codes).toEqual(whole);
  });
});

describe('the change of the picture', () => {
  it('is there where it moves and nowhere else, whatever the frame rate', async () => {
    const path = join(folder, 'hands.mp4');
    // A box that slides from second 3 to second 6 and rests otherwise.
    execFileSync('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'color=c=gray:s=640x360:r=30000/1001:d=10'],
      ...['-f', 'lavfi', '-i', 'color=c=white:s=120x120:r=30000/1001:d=10', '-f', 'lavfi', '-i', 'sine=d=10'],
      ...['-filter_complex', "[0][1]overlay=x='100+100*max(0,min(3,t-3))':y=100:eval=frame,format=yuv420p[v]"],
      ...['-map', '[v]', '-map', '2', '-c:v', 'libx264', '-c:a', 'aac', path],
    ]);
    const into = fresh('motion');
    await measureMotion(path, await probe(path), into);
    const { codes } = await readMotion(into);
    expect(Math.abs(codes.length / 4 - 10)).toBeLessThanOrEqual(0.5);
    const most = (from: number, to: number) => Math.max(...codes.slice(from * 4, to * 4));
    expect(most(0, 2.5)).toBeLessThanOrEqual(2);
    expect(Math.min(...codes.slice(14, 23))).toBeGreaterThan(10);
    expect(most(7, 10)).toBeLessThanOrEqual(2);
  });
});
