import { describe, expect, it } from 'vitest';
import { SOUND_RATE } from '../contract/sound.ts';
import { programmeOf } from '../programme/programme.ts';
import { renderProgramme } from './programmeSound.ts';
import type { SampleSource } from './sampleSource.ts';
import { Stretcher } from './stretch.ts';

/** A recording whose every sample tells its own place, left counting up and right down. */
const parts = {
  async copy(from: number, to: number, out: Float32Array, at: number) {
    for (let k = from; k < to; k++) {
      out[2 * (at + k - from)] = placeValue(k);
      out[2 * (at + k - from) + 1] = -placeValue(k);
    }
  },
};

const placeValue = (sample: number) => (sample % 65_536) / 65_536;
const soundParts = parts as unknown as SampleSource;
const FADE = 0.005 * SOUND_RATE;

describe('the sound of a programme', () => {
  it('is that of its pieces, end to end to the sample, across parts of the recording', async () => {
    const programme = programmeOf([
      { start: 1, end: 2, rate: 1 },
      { start: 7.5, end: 8.5, rate: 1 },
    ]);
    const sound = await renderProgramme(programme, soundParts, 0, 3 * SOUND_RATE);
    expect(sound.length).toBe(2 * 2 * SOUND_RATE);
    const source = (k: number) => (k < SOUND_RATE ? SOUND_RATE + k : 7.5 * SOUND_RATE + (k - SOUND_RATE));
    for (const k of [
      0,
      1,
      20_000,
      SOUND_RATE - FADE - 1,
      SOUND_RATE + FADE,
      SOUND_RATE * 1.5 - 1,
      SOUND_RATE * 1.5,
      2 * SOUND_RATE - 1,
    ]) {
      expect(sound[2 * k]).toBeCloseTo(placeValue(source(k)), 5);
      expect(sound[2 * k + 1]).toBeCloseTo(-placeValue(source(k)), 5);
    }
  });

  it('fades at a seam and nowhere else', async () => {
    const programme = programmeOf([
      { start: 0, end: 1, rate: 1 },
      { start: 3, end: 4, rate: 1 },
    ]);
    const sound = await renderProgramme(programme, soundParts, 0, 2 * SOUND_RATE);
    // In the middle of the seam both sides sound, as strong as makes their power what it is elsewhere.
    const both = Math.SQRT1_2 * (placeValue(SOUND_RATE) + placeValue(3 * SOUND_RATE));
    expect(sound[2 * SOUND_RATE]).toBeCloseTo(both, 2);
    const longer = await renderProgramme(programme, soundParts, 0, 2 * SOUND_RATE, { crossfade: 0.1 });
    const near = 2 * (SOUND_RATE - Math.round(0.03 * SOUND_RATE));
    expect(longer[near]).not.toBeCloseTo(sound[near] ?? 0, 2);
    expect(sound[2 * (2 * SOUND_RATE - 1)]).toBeCloseTo(placeValue(4 * SOUND_RATE - 1), 5);
  });

  it('does not fade where it goes on without a break', async () => {
    const programme = programmeOf([
      { start: 0, end: 1, rate: 1 },
      { start: 1, end: 2, rate: 1 },
    ]);
    const sound = await renderProgramme(programme, soundParts, 0, 2 * SOUND_RATE, { crossfade: 0.1 });
    for (const k of [SOUND_RATE - 100, SOUND_RATE, SOUND_RATE + 100]) expect(sound[2 * k]).toBeCloseTo(placeValue(k), 5);
  });

  it('does not depend on the blocks it is asked for in', async () => {
    const programme = programmeOf([
      { start: 0.2, end: 0.9, rate: 1 },
      { start: 1.31, end: 1.77, rate: 1 },
      { start: 5, end: 5.3, rate: 1 },
    ]);
    const whole = await renderProgramme(programme, soundParts, 0, 10 * SOUND_RATE);
    const pieced: number[] = [];
    for (let at = 0; at < whole.length / 2; at += 7001) pieced.push(...(await renderProgramme(programme, soundParts, at, 7001)));
    expect(Float32Array.from(pieced)).toEqual(whole);
  });

  it('is nothing after the end and of an empty programme', async () => {
    const programme = programmeOf([{ start: 0, end: 1, rate: 1 }]);
    expect(await renderProgramme(programme, soundParts, SOUND_RATE, 100)).toHaveLength(0);
    expect(await renderProgramme(programmeOf([]), soundParts, 0, 100)).toHaveLength(0);
  });
});

describe('the sound of a hurried piece', () => {
  /** A tone of 440 Hz all along. */
  const tone = () => {
    const derived = new Map<string, Promise<Float32Array>>();
    return {
      async copy(from: number, to: number, out: Float32Array, at: number) {
        for (let k = from; k < to; k++)
          out.fill(Math.sin((2 * Math.PI * 440 * k) / SOUND_RATE), 2 * (at + k - from), 2 * (at + k - from) + 2);
      },
      once: (name: string, work: () => Promise<Float32Array>) => {
        const made = derived.get(name) ?? work();
        derived.set(name, made);
        return made;
      },
    } as unknown as SampleSource;
  };
  const hurried = (sound: 'mute' | 'along' | 'pitch') =>
    programmeOf([
      { start: 0, end: 1, rate: 1 },
      { start: 1, end: 13, rate: 4, sound },
      { start: 13, end: 14, rate: 1 },
    ]);
  const pitchOf = (sound: Float32Array, from: number, to: number) => {
    let crossings = 0;
    const [first, last] = [Math.round(from), Math.round(to)];
    for (let k = first + 1; k < last; k++) if ((sound[2 * k - 2] ?? 0) < 0 && (sound[2 * k] ?? 0) >= 0) crossings++;
    return (crossings / (last - first)) * SOUND_RATE;
  };
  const [from, to] = [1.1 * SOUND_RATE, 3.8 * SOUND_RATE];

  it('is left out, runs along at four times its pitch, or keeps it, for a quarter of the time', async () => {
    for (const [manner, pitch] of [
      ['mute', 0],
      ['along', 1760],
      ['pitch', 440],
    ] as const) {
      const sound = await renderProgramme(hurried(manner), tone(), 0, 10 * SOUND_RATE);
      expect(sound.length).toBe(2 * 5 * SOUND_RATE);
      expect(Math.abs(pitchOf(sound, from, to) - pitch)).toBeLessThan(20);
      expect(pitchOf(sound, 4.1 * SOUND_RATE, 4.9 * SOUND_RATE)).toBeCloseTo(440, -1);
    }
  });

  it('does not depend on the blocks it is asked for in', async () => {
    for (const manner of ['along', 'pitch'] as const) {
      const parts = tone();
      const whole = await renderProgramme(hurried(manner), parts, 0, 10 * SOUND_RATE);
      const pieced = new Float32Array(whole.length);
      for (let at = 0; at < whole.length / 2; at += 30_011)
        pieced.set(await renderProgramme(hurried(manner), parts, at, 30_011), 2 * at);
      let most = 0;
      for (let k = 0; k < whole.length; k++) most = Math.max(most, Math.abs((whole[k] ?? 0) - (pieced[k] ?? 0)));
      expect(most).toBeLessThan(1e-4);
    }
  });

  it('a hole is silent and takes its time', async () => {
    const programme = programmeOf([
      { start: 0, end: 1, rate: 1 },
      { start: 1, end: 2, rate: 1, hole: true },
      { start: 2, end: 3, rate: 1 },
    ]);
    const sound = await renderProgramme(programme, tone(), 0, 10 * SOUND_RATE);
    expect(sound.length).toBe(2 * 3 * SOUND_RATE);
    expect(Math.max(...sound.slice(2 * SOUND_RATE, 4 * SOUND_RATE).map(Math.abs))).toBe(0);
  });
});

describe('playing faster', () => {
  it.each([1.25, 1.5, 2])('at %f times takes that much less time, and a tone keeps its pitch', (rate) => {
    const stretcher = new Stretcher(rate);
    const seconds = 6;
    let heard = new Float32Array(0);
    for (let block = 0; block < seconds * 2; block++) {
      const samples = new Float32Array(SOUND_RATE);
      for (let k = 0; k < SOUND_RATE / 2; k++) {
        const value = Math.sin((2 * Math.PI * 440 * (block * (SOUND_RATE / 2) + k)) / SOUND_RATE);
        samples[2 * k] = value;
        samples[2 * k + 1] = value;
      }
      const out = stretcher.push(samples);
      const joined = new Float32Array(heard.length + out.length);
      joined.set(heard);
      joined.set(out, heard.length);
      heard = joined;
    }
    const length = heard.length / 2 / SOUND_RATE;
    expect(length).toBeGreaterThan((seconds - 0.6) / rate);
    expect(length).toBeLessThan((seconds + 0.2) / rate);
    let crossings = 0;
    for (let k = 1; k < heard.length / 2; k++) if ((heard[2 * k - 2] ?? 0) < 0 && (heard[2 * k] ?? 0) >= 0) crossings++;
    expect(crossings / length).toBeGreaterThan(440 * 0.97);
    expect(crossings / length).toBeLessThan(440 * 1.03);
  });
});

describe('the quiet room under what leaves nothing', () => {
  /** A room that is told from silence, under a tone from the second on. */
  const noise = (k: number) => 0.01 * Math.sin(k * k * 0.37);
  const recorded: SampleSource = {
    async copy(from, to, out, at) {
      for (let k = Math.max(0, from); k < to; k++)
        for (const channel of [0, 1])
          out[2 * (at + k - from) + channel] = noise(k) + (k > SOUND_RATE ? 0.3 * Math.sin(k / 20) : 0);
    },
    once: (_, work) => work(),
  };
  const tones = [{ of: { start: 0, end: 60 }, tone: { start: 0.1, end: 0.9 } }];
  const programme = programmeOf([
    { start: 2, end: 3, rate: 1 },
    { start: 3, end: 5, rate: 1, hole: true },
    { start: 6, end: 7, rate: 1 },
    { start: 7, end: 10, rate: 3, sound: 'mute' },
    { start: 10, end: 11, rate: 1 },
  ]);
  const power = (samples: Float32Array, from: number, to: number) => {
    let sum = 0;
    for (let k = 2 * Math.round(from * SOUND_RATE); k < 2 * Math.round(to * SOUND_RATE); k++) sum += (samples[k] as number) ** 2;
    return sum / (2 * (to - from) * SOUND_RATE);
  };

  it('is as loud as it was recorded, without a gap in any tenth of a second, and only where it is wanted', async () => {
    const without = await renderProgramme(programme, recorded, 0, 6 * SOUND_RATE);
    expect(power(without, 1.1, 2.9)).toBe(0);
    const sound = await renderProgramme(programme, recorded, 0, 6 * SOUND_RATE, { tones });
    const room = power(await renderProgramme(programmeOf([{ start: 0, end: 1, rate: 1 }]), recorded, 0, SOUND_RATE), 0.1, 0.9);
    for (const [from, to] of [
      [1.02, 2.98],
      [4.02, 4.98],
    ] as const)
      for (let at = from; at < to - 0.1; at += 0.05) {
        const ratio = power(sound, at, at + 0.1) / room;
        expect([at, ratio > 0.5 && ratio < 2]).toEqual([at, true]);
      }
    // What is not beside it stays as it was, and nothing falls silent at its seams.
    expect(sound.subarray(0, 2 * 0.9 * SOUND_RATE)).toEqual(without.subarray(0, 2 * 0.9 * SOUND_RATE));
    for (const seam of [1, 3, 4, 5]) expect(power(sound, seam - 0.002, seam + 0.002)).toBeGreaterThan(room / 4);
  });

  it('does not depend on the blocks it is asked for in', async () => {
    const whole = await renderProgramme(programme, recorded, 0, 6 * SOUND_RATE, { tones });
    const pieced = new Float32Array(whole.length);
    for (let at = 0; at < whole.length / 2; at += 20_011)
      pieced.set(await renderProgramme(programme, recorded, at, 20_011, { tones }), 2 * at);
    expect(pieced).toEqual(whole);
  });
});
