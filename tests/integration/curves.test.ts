import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import * as ort from 'onnxruntime-web';
import { describe, expect, it } from 'vitest';
import { EMBEDDING_RATE, EMBEDDING_SIZE, normaliseEmbedding } from '@/core/curves/embedding.ts';
import { SPEECH_RATE } from '@/core/curves/speech.ts';
import { measureEmbedding, readEmbedding } from '@/server/media/embedding/measure.ts';
import { CONTEXT_FRAMES, embeddingFile, freeTimeAxis, HOP_FRAMES, MEL_BANDS } from '@/server/media/embedding/model.ts';
import { readMeasure } from '@/server/media/material.ts';
import { measure, STRETCH_UNIT } from '@/server/media/measure.ts';
import { measureMotion } from '@/server/media/motion.ts';
import { probe } from '@/server/media/probe.ts';
import { mixOf } from '@/server/media/sound.ts';
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
  return (await readMeasure('speech', into, facts.audio.length)).map(({ codes }) => codes);
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

  it('are those of the voice where two channels of it cancel each other, and so is what is heard', async () => {
    const lesson = join(DEMO, 'carriage-clock.mp4');
    const as = (name: string, second: string) => {
      const path = join(folder, name);
      const filter = `pan=mono|c0=c0,volume=0.8,pan=stereo|c0=c0|c1=${second}*c0`;
      execFileSync('ffmpeg', ['-v', 'error', '-i', lesson, '-vn', '-af', filter, '-ar', '48000', path]);
      return path;
    };
    const [right, wrong] = [as('right.wav', '0.9'), as('wrong.wav', '-0.9')];
    expect((await probe(right)).audio[0]).not.toHaveProperty('opposed');
    const facts = await probe(wrong);
    expect(facts.audio[0]).toMatchObject({ channels: 2, opposed: true });
    const levelsOf = async (path: string, name: string) => {
      await measure(path, await probe(path), join(folder, name));
      return (await readMeasure('levels', join(folder, name), 1))[0]?.codes ?? new Uint8Array();
    };
    const [expected, found] = [await levelsOf(right, 'right'), await levelsOf(wrong, 'wrong')];
    expect(found.length).toBe(expected.length);
    for (const [k, code] of expected.entries())
      expect(Math.abs(code - (found[k] as number))).toBeLessThanOrEqual(code > 100 ? 1 : 8);
    const speech = await through(wrong, 'wrong-speech');
    const inside = truth.words.map(({ start, end }) => speech[0]?.[Math.round(((start + end) / 2) * SPEECH_RATE)] ?? 0);
    expect(inside.filter((code) => code > 128).length).toBeGreaterThan(0.9 * inside.length);
    const powerOf = (path: string, graph: string) => {
      const options = ['-v', 'error', '-i', path, '-filter_complex', graph, '-map', '[mix]', '-ac', '1', '-f', 's16le', '-'];
      const bytes = execFileSync('ffmpeg', options, { maxBuffer: 1e9 });
      return new Int16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2).reduce((sum, one) => sum + one * one, 0);
    };
    const heard = powerOf(wrong, mixOf(facts)) / powerOf(right, mixOf(await probe(right)));
    expect(Math.abs(heard - 1)).toBeLessThan(0.01);
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
    expect((await readMeasure('speech', into, 1))[0]?.codes).toEqual(whole);
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
    const { codes } = await readMeasure('motion', into);
    expect(Math.abs(codes.length / 4 - 10)).toBeLessThanOrEqual(0.5);
    const most = (from: number, to: number) => Math.max(...codes.slice(from * 4, to * 4));
    expect(most(0, 2.5)).toBeLessThanOrEqual(2);
    expect(Math.min(...codes.slice(14, 23))).toBeGreaterThan(10);
    expect(most(7, 10)).toBeLessThanOrEqual(2);
  });
});

describe('the speech embedding', () => {
  it('comes out of the network with a free time axis as out of the one that ships, at each 40 ms', async () => {
    const model = await embeddingFile();
    const open = (bytes: Uint8Array) => ort.InferenceSession.create(bytes, { executionProviders: ['wasm'], logSeverityLevel: 3 });
    const [fixed, free] = [await open(model), await open(freeTimeAxis(model))];
    const frames = CONTEXT_FRAMES + 9 * HOP_FRAMES;
    // Made-up mel bands that change in time and over the bands.
    const bands = Float32Array.from({ length: frames * MEL_BANDS }, (_, k) => 4 + 3 * Math.sin(k * 0.37) * Math.cos(k * 0.011));
    const run = async (session: ort.InferenceSession, values: Float32Array) => {
      const input = new ort.Tensor('float32', values, [1, values.length / MEL_BANDS, MEL_BANDS, 1]);
      const answer = await session.run({ [session.inputNames[0] as string]: input });
      return answer[session.outputNames[0] as string] as ort.Tensor;
    };
    const all = await run(free, bands);
    expect(all.dims).toEqual([1, EMBEDDING_SIZE, 10, 1]);
    for (let step = 0; step < 10; step++) {
      const from = step * HOP_FRAMES * MEL_BANDS;
      const one = (await run(fixed, bands.slice(from, from + CONTEXT_FRAMES * MEL_BANDS))).data as Float32Array;
      for (let k = 0; k < EMBEDDING_SIZE; k++)
        expect(Math.abs((all.data[k * 10 + step] as number) - (one[k] as number))).toBeLessThan(1e-3);
    }
  });

  it('refuses a network of another form', () => {
    expect(() => freeTimeAxis(new Uint8Array(0))).toThrow('another form');
  });

  it('goes on where it was stopped, and comes out the same', async () => {
    const talk = join(DEMO, 'carriage-clock.mp4');
    const facts = await probe(talk);
    const [whole, stopped] = [fresh('embedding-whole'), fresh('embedding-stopped')];
    await measureEmbedding(talk, facts, whole);
    const stop = new AbortController();
    await expect(
      measureEmbedding(talk, facts, stopped, {
        signal: stop.signal,
        onProgress: (seconds) => seconds > 35 && stop.abort(),
      }),
    ).rejects.toThrow();
    expect(readdirSync(stopped)).toEqual(['embedding-0.ztcv.part']);
    await measureEmbedding(talk, facts, stopped);
    const [a, b] = [await readEmbedding(whole, 1), await readEmbedding(stopped, 1)];
    expect(b[0]?.values).toEqual(a[0]?.values);
    expect(Math.abs((a[0]?.values.length ?? 0) / EMBEDDING_SIZE - facts.duration * EMBEDDING_RATE)).toBeLessThan(2);
  });

  it('lays a line beside its second try, and far from others', async () => {
    const { words, retakes } = JSON.parse(readFileSync(join(DEMO, 'carriage-clock.truth.json'), 'utf8')) as {
      words: { start: number; end: number }[];
      retakes: { attempts: { start: number; kind: string }[] }[];
    };
    const [curve] = await readEmbedding(join(folder, 'embedding-whole'), 1);
    const values = normaliseEmbedding(curve as NonNullable<typeof curve>);
    const apart = (a: number, b: number) => {
      let sum = 0;
      for (let frame = 5; frame < 25; frame++)
        for (let k = 0; k < EMBEDDING_SIZE; k++) {
          const at = (seconds: number) => (Math.round(seconds * EMBEDDING_RATE) + frame) * EMBEDDING_SIZE + k;
          sum += (values[at(a)] as number) * (values[at(b)] as number);
        }
      return 1 - sum / 20;
    };
    const [first, second] = retakes[0]?.attempts ?? [];
    const others = words.filter((_, k) => k % 17 === 0).map(({ start }) => apart(first?.start ?? 0, start));
    expect(apart(first?.start ?? 0, second?.start ?? 0)).toBeLessThan(0.4);
    expect(others.filter((distance) => distance > 0.5).length).toBeGreaterThan(0.8 * others.length);
  });
});
