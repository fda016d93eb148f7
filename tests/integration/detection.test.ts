import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { computeCut } from '@/core/assemble/cutlist.ts';
import { NO_STEPS } from '@/core/decisions/replay.ts';
import { prepare } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { readTranscript } from '@/core/transcript/word.ts';
import { readLevels } from '@/server/media/material.ts';
import { measure } from '@/server/media/measure.ts';
import { probe } from '@/server/media/probe.ts';
import { folderFor } from '../media.ts';

const DEMO = join(import.meta.dirname, '..', '..', 'demo', 'media');
const folder = folderFor('detection');

interface Truth {
  duration: number;
  pauses: [number, number][];
  words: { text: string; start: number; end: number }[];
}

/** How well pauses are found in a recording whose truth is known, by the rules that detection is judged by. */
async function judge(path: string, truth: Truth, withWords: boolean) {
  const facts = await probe(path);
  const curves = join(folder, `curves-${Math.random()}`);
  await measure(path, facts, curves);
  const words = withWords ? readTranscript(JSON.stringify({ words: truth.words })).words : [];
  const levels = await readLevels(curves, facts.audio.length);
  const settings = { ...DEFAULT_SETTINGS, airBefore: 0, airAfter: 0, minPause: 0.4 };
  const { proposals } = computeCut(prepare({ duration: facts.duration, levels, words }), { ...NO_STEPS, settings });
  const near = (a: number, b: number) => Math.abs(a - b) <= 0.06;
  const same = (p: { start: number; end: number }, [start, end]: [number, number]) =>
    near(p.start, start) && (near(p.end, end) || (p.end >= facts.duration - 0.06 && end >= truth.duration - 0.06));
  const wanted = truth.pauses.filter(([start, end]) => end - start >= 0.4);
  const recall = wanted.filter((pause) => proposals.some((p) => same(p, pause))).length / wanted.length;
  const precision = proposals.filter((p) => truth.pauses.some((pause) => same(p, pause))).length / proposals.length;
  const clipped = truth.words.filter((word) =>
    proposals.some((p) => Math.min(p.end, word.end) - Math.max(p.start, word.start) > 0.02),
  );
  return { f1: (2 * precision * recall) / (precision + recall), clipped: clipped.length };
}

const truthOf = (name: string): Truth => JSON.parse(readFileSync(join(DEMO, `${name}.truth.json`), 'utf8'));

/** The demo recording under another sky. */
function altered(source: string, name: string, filter: string): string {
  const path = join(folder, `${name}.flac`);
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-y',
    '-i',
    join(DEMO, source),
    '-filter_complex',
    filter,
    '-map',
    '[out]',
    '-c:a',
    'flac',
    path,
  ]);
  return path;
}

const SKIES: readonly (readonly [name: string, filter: string, f1: number, clipped: number])[] = [
  ['as it is', '[0:a:0]anull[out]', 0.97, 2],
  ['twelve decibels softer', '[0:a:0]volume=-12dB[out]', 0.97, 2],
  [
    'with mains hum',
    '[0:a:0]aformat=channel_layouts=mono[v];aevalsrc=0.02*sin(2*PI*50*t)+0.01*sin(2*PI*100*t):s=48000:d=199[h];[v][h]amix=normalize=0:duration=first[out]',
    0.9,
    5,
  ],
  [
    'in a louder room',
    '[0:a:0]aformat=channel_layouts=mono[v];anoisesrc=a=0.002:c=pink:seed=3:d=199:r=48000[n];[v][n]amix=normalize=0:duration=first[out]',
    0.9,
    6,
  ],
  [
    'with a fan that starts half-way',
    "[0:a:0]aformat=channel_layouts=mono[v];anoisesrc=a=0.004:c=brown:seed=5:d=199:r=48000,volume=enable='lt(t,90)':volume=0[n];[v][n]amix=normalize=0:duration=first[out]",
    0.9,
    6,
  ],
];

describe('pauses in the lesson at the bench', () => {
  const truth = truthOf('carriage-clock');

  it.each(SKIES)('are found %s, without words', async (name, filter, least, most) => {
    const { f1, clipped } = await judge(altered('carriage-clock.mp4', name, filter), truth, false);
    expect(f1).toBeGreaterThanOrEqual(least);
    expect(clipped).toBeLessThanOrEqual(most);
  });

  it.each(SKIES)('never enter a word when there are words, %s', async (name, filter, least) => {
    const { f1, clipped } = await judge(altered('carriage-clock.mp4', name, filter), truth, true);
    expect(f1).toBeGreaterThanOrEqual(least);
    expect(clipped).toBe(0);
  });
});

describe('pauses in the lamp room', () => {
  it('are where neither keeper speaks, on two tracks with bleed', async () => {
    const path = join(DEMO, 'fog-and-birds.mka');
    const truth = truthOf('fog-and-birds');
    expect(await judge(path, truth, true)).toMatchObject({ clipped: 0 });
    expect((await judge(path, truth, true)).f1).toBeGreaterThanOrEqual(0.97);
    expect((await judge(path, truth, false)).f1).toBeGreaterThanOrEqual(0.9);
  });
});
