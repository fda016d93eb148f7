import { execFileSync } from 'node:child_process';
import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { USUAL_CLEANING } from '@/core/clean/cleaning.ts';
import { cleanedFacts, cleanSound, writeWave } from '@/server/media/clean/cleanSound.ts';
import { probe } from '@/server/media/probe.ts';
import { folderFor } from '../media.ts';

const folder = folderFor('cleaning');
const TALK = 'The mainspring lets go, and every wheel in the train turns back a little. I wind it again, slowly, by hand.';

const ffmpeg = (...options: string[]) => execFileSync('ffmpeg', ['-v', 'error', '-y', ...options]);

/** A voice with pauses, of a speech synthesiser. */
function voice(name: string, which: string): string {
  const [said, path] = [join(folder, `said-${name}.txt`), join(folder, `${name}.wav`)];
  writeFileSync(said, TALK);
  ffmpeg(
    '-f',
    'lavfi',
    '-i',
    `flite=textfile=${said}:voice=${which}`,
    '-af',
    'adelay=2000,apad=pad_dur=2,aresample=48000',
    '-ac',
    '1',
    '-t',
    '13',
    path,
  );
  return path;
}

const samplesOf = (path: string, track: number, channels = 1): Int16Array => {
  const options = [
    '-v',
    'error',
    '-i',
    path,
    '-map',
    `0:a:${track}`,
    '-ac',
    String(channels),
    '-ar',
    '48000',
    '-f',
    's16le',
    '-',
  ];
  const bytes = execFileSync('ffmpeg', options, { maxBuffer: 1e9 });
  return new Int16Array(bytes.buffer, bytes.byteOffset, bytes.length / 2);
};

/** Samples by which one is later than the other. */
function lagOf(first: Int16Array, second: Int16Array): number {
  let best = { lag: 0, sum: 0 };
  for (let lag = -300; lag <= 300; lag++) {
    let sum = 0;
    for (let k = 150_000; k < 250_000; k += 1) sum += (first[k] as number) * (second[k + lag] as number);
    if (sum > best.sum) best = { lag, sum };
  }
  return best.lag;
}

/** A filter against rumble turns phases, which looks like another place. */
const IN_PHASE = { ...USUAL_CLEANING, rumble: false };

describe('cleaned sound', () => {
  const [near, far] = [voice('near', 'slt'), voice('far', 'kal16')];
  const talk = join(folder, 'talk.mka');
  const noisy = `[0:a]volume=-6dB[v0];[1:a]volume=-14dB[v1];anoisesrc=c=pink:a=0.02:r=48000:d=13[n0];sine=f=50:r=48000:d=13,volume=-30dB[h0];sine=f=150:r=48000:d=13,volume=-34dB[h1];[v0][n0][h0][h1]amix=inputs=4:normalize=0[t0];anoisesrc=c=white:a=0.004:r=48000:d=13[n1];[v1][n1]amix=inputs=2:normalize=0,pan=stereo|c0=c0|c1=0.5*c0[t1]`;
  ffmpeg('-i', near, '-i', far, '-filter_complex', noisy, '-map', '[t0]', '-map', '[t1]', '-c:a', 'flac', talk);

  it('has breaths softer where that is asked for, says how many, and speech as it was', async () => {
    const breathing = join(folder, 'breathing.mka');
    const breath = 'anoisesrc=c=white:a=0.02:d=0.4:r=48000,lowpass=f=2500,adelay=800,apad=whole_dur=13[b]';
    const room = 'anoisesrc=c=white:a=0.0004:r=48000:d=13[n]';
    ffmpeg('-i', near, '-filter_complex', `${breath};${room};[0:a][b][n]amix=inputs=3:normalize=0`, '-c:a', 'flac', breathing);
    const facts = await probe(breathing);
    const only = { ...IN_PHASE, hum: false, noise: 'off', evened: false, breaths: 'much' } as const;
    const target = join(folder, 'softer.mka');
    const { tracks } = await cleanSound(breathing, facts, only, target, { signal: new AbortController().signal });
    expect(tracks.map(({ breaths }) => breaths)).toEqual([1]);
    const [before, after] = [samplesOf(breathing, 0), samplesOf(target, 0)];
    const power = (samples: Int16Array, from: number, to: number) =>
      samples.subarray(from * 48_000, to * 48_000).reduce((sum, one) => sum + one * one, 0);
    expect(10 * Math.log10(power(before, 0.9, 1.1) / power(after, 0.9, 1.1))).toBeCloseTo(16, 0);
    const apart = after.subarray(1.5 * 48_000).map((one, k) => Math.abs(one - (before[1.5 * 48_000 + k] as number)));
    expect(apart.reduce((a, b) => Math.max(a, b), 0)).toBeLessThanOrEqual(1);
  });

  it('has the tracks of the recording at their places, less of its noise and hum, and is as loud in one as in the other', async () => {
    const target = join(folder, 'clean.mka');
    const facts = await probe(talk);
    const shares: number[] = [];
    const { signal } = new AbortController();
    const report = await cleanSound(talk, facts, IN_PHASE, target, { signal, onProgress: (share) => shares.push(share) });
    expect([...shares].sort((a, b) => a - b)).toEqual(shares);
    const found = await probe(target);
    expect(found.audio.map(({ channels, sampleRate }) => [channels, sampleRate])).toEqual([
      [1, 48_000],
      [2, 48_000],
    ]);
    expect(cleanedFacts(facts).audio.map(({ index, channels }) => [index, channels])).toEqual([
      [0, 1],
      [1, 2],
    ]);
    expect(report.tracks[0]?.hum.map(Math.round)).toEqual([50, 150]);
    expect(report.tracks[1]?.hum).toEqual([]);
    for (const track of [0, 1]) {
      const [before, after] = [samplesOf(talk, track), samplesOf(target, track)];
      expect(after.length).toBe(before.length);
      expect(lagOf(before, after)).toBe(0);
    }
    const [first, second] = report.tracks.map(({ after, gain }) => (after?.integrated ?? 0) + gain);
    expect(Math.abs((first as number) - (second as number))).toBeLessThan(0.1);
    const quiet = (path: string) =>
      samplesOf(path, 0)
        .slice(48_000, 90_000)
        .reduce((sum, one) => sum + one * one, 0);
    expect(10 * Math.log10(quiet(talk) / quiet(target))).toBeGreaterThan(9);
    for (const { bands } of report.tracks) {
      const lowered = (bands?.before.noise ?? []).map((before, k) => before - (bands?.after.noise[k] ?? 0));
      expect(Math.max(...lowered)).toBeGreaterThan(9);
    }
    expect(readdirSync(folder).some((name) => name.includes('.part'))).toBe(false);
  });

  it('keeps its place with clicks and sibilance lowered and lines evened too, and as one wave file for an editor', async () => {
    const target = join(folder, 'all.mka');
    const choices = { ...IN_PHASE, clicks: true, sibilance: true, evened: false, lines: true };
    const facts = await probe(talk);
    await cleanSound(talk, facts, choices, target, { signal: new AbortController().signal });
    expect(lagOf(samplesOf(talk, 0), samplesOf(target, 0))).toBe(0);
    expect(samplesOf(target, 0).length).toBe(samplesOf(talk, 0).length);
    const wave = join(folder, 'all.wav');
    await writeWave(target, cleanedFacts(facts), wave);
    expect((await probe(wave)).audio.map(({ channels, codec }) => [channels, codec])).toEqual([[3, 'pcm_s16le']]);
    const whole = samplesOf(wave, 0, 3);
    const [mono, pair] = [samplesOf(target, 0), samplesOf(target, 1, 2)];
    for (let k = 0; k < mono.length; k += 101)
      expect([whole[3 * k], whole[3 * k + 1], whole[3 * k + 2]]).toEqual([mono[k], pair[2 * k], pair[2 * k + 1]]);
  });

  it('leaves clean speech unharmed, and nothing behind where it is cancelled', async () => {
    const target = join(folder, 'near.mka');
    await cleanSound(near, await probe(near), IN_PHASE, target, { signal: new AbortController().signal });
    const [before, after] = [samplesOf(near, 0), samplesOf(target, 0)];
    let [power, rest] = [0, 0];
    for (let k = 0; k < before.length; k++) {
      power += (before[k] as number) ** 2;
      rest += ((after[k] as number) - (before[k] as number)) ** 2;
    }
    expect(10 * Math.log10(power / (rest + 1))).toBeGreaterThan(30);
    const stop = new AbortController();
    const other = join(folder, 'never.mka');
    const cleaning = cleanSound(talk, await probe(talk), USUAL_CLEANING, other, {
      signal: stop.signal,
      onProgress: () => stop.abort(),
    });
    await expect(cleaning).rejects.toThrow();
    expect(readdirSync(folder).some((name) => name.startsWith('never'))).toBe(false);
  });
});
