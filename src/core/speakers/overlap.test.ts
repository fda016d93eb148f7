import { describe, expect, it } from 'vitest';
import { VOICE_FRAME, VOICE_HOP_SAMPLES, VOICE_SAMPLE_RATE } from '../curves/voiceFrames.ts';
import { overlapsHeard } from './overlap.ts';
import { TimbreMeter } from './timbre.ts';

/** A buzz like a voice: harmonics that sink by 6 dB an octave, its pitch moving a little, in syllables. */
function buzz(pitch: number, seconds: number, seed: number): Float64Array {
  const samples = new Float64Array(Math.round(seconds * VOICE_SAMPLE_RATE));
  let phase = seed;
  for (let k = 0; k < samples.length; k++) {
    const at = k / VOICE_SAMPLE_RATE;
    phase += (2 * Math.PI * pitch * (1 + 0.04 * Math.sin(5 * at + seed))) / VOICE_SAMPLE_RATE;
    let sum = 0;
    for (let n = 1; n * pitch < 3500; n++) sum += Math.sin(n * phase) / n;
    samples[k] = 0.1 * sum * (0.55 + 0.45 * Math.sin(2 * Math.PI * 3.5 * at + seed));
  }
  return samples;
}

/** What is heard where the first buzzes throughout and the second from `from` to `to`. */
function heard(pitches: readonly [number, number], [from, to]: readonly [number, number], seconds = 8) {
  const [one, two] = [buzz(pitches[0], seconds, 1), buzz(pitches[1], seconds, 2)];
  const mixed = one.map((sample, k) => {
    const at = k / VOICE_SAMPLE_RATE;
    const noise = 0.002 * Math.sin(k * k * 0.37);
    return sample + noise + (at >= from && at < to ? (two[k] as number) : 0);
  });
  const meter = new TimbreMeter(seconds);
  for (let k = 0; k + VOICE_FRAME <= mixed.length; k += VOICE_HOP_SAMPLES) meter.push(mixed.slice(k, k + VOICE_FRAME));
  return overlapsHeard(meter.timbre);
}

describe('two voices at once', () => {
  it.each([
    [115, 190],
    [190, 115],
    [100, 133],
    [140, 225],
  ])('of %i and %i Hz are heard where they are', (first, second) => {
    const found = heard([first, second], [3, 5.5]);
    const inside = found.reduce((sum, { start, end }) => sum + Math.max(0, Math.min(end, 5.7) - Math.max(start, 2.8)), 0);
    const all = found.reduce((sum, { start, end }) => sum + end - start, 0);
    expect(inside).toBeGreaterThan(1.5);
    expect(all - inside).toBeLessThan(0.1);
  });

  it('are not heard where there is one, high or low, nor in silence', () => {
    for (const pitch of [85, 120, 170, 240]) expect(heard([pitch, 150], [9, 10])).toEqual([]);
    const meter = new TimbreMeter(1);
    for (let k = 0; k < 100; k++) meter.push(new Float64Array(VOICE_FRAME));
    expect(overlapsHeard(meter.timbre)).toEqual([]);
    expect(overlapsHeard(new TimbreMeter(0).timbre)).toEqual([]);
  });
});
