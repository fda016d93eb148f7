import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decodeCurve, encodeHeader, HEADER_BYTES } from './codec.ts';
import { codeToDbfs, dbfsToCode } from './level.ts';
import { TrackMeter } from './meter.ts';
import { compand, layerFor, PEAK_LAYERS, peakLayerRate } from './peaks.ts';

/** Measures a signal, handed over in chunks of odd lengths. */
function measure(rate: number, signal: (t: number) => number, seconds: number, chunk = 997) {
  const level: number[] = [];
  const peaks: number[][] = Array.from({ length: PEAK_LAYERS }, () => []);
  const meter = new TrackMeter(rate, {
    level: (codes) => level.push(...codes),
    peaks: (layer, pairs) => peaks[layer]?.push(...pairs),
  });
  const samples = Int16Array.from({ length: Math.round(rate * seconds) }, (_, k) => Math.round(32767 * signal(k / rate)));
  for (let at = 0; at < samples.length; at += chunk) meter.push(samples.subarray(at, at + chunk));
  meter.finish();
  return { level, peaks };
}

const sine = (hertz: number, amplitude: number) => (t: number) => amplitude * Math.sin(2 * Math.PI * hertz * t);

describe('the meter', () => {
  it.each([8000, 16_000, 22_050, 44_100, 48_000, 96_000])('reads a tone at its level at %i samples a second', (rate) => {
    // A sine of amplitude 0.1 has an RMS of 0.1/√2: −23.0 dBFS. At 1 kHz the filters take nothing worth naming.
    const { level } = measure(rate, sine(1000, 0.1), 1);
    expect(level).toHaveLength(100);
    for (const code of level.slice(3, 97)) expect(Math.abs(codeToDbfs(code) - -23.0)).toBeLessThanOrEqual(0.5);
  });

  it('hardly hears hum and rumble', () => {
    const { level } = measure(48_000, sine(50, 0.3), 1);
    // Twice second order, 180 Hz: 50 Hz is down by 80·log10(180/50) = 44 dB from −13.5.
    expect(codeToDbfs(level[50] as number)).toBeLessThan(-56);
  });

  it('gives digital silence the code 0, and one value each 10 ms without drift', () => {
    const { level } = measure(22_050, () => 0, 20);
    expect(level).toHaveLength(2000);
    expect(Math.max(...level)).toBe(0);
  });

  it('puts a click where it is', () => {
    const { level, peaks } = measure(44_100, (t) => (Math.abs(t - 3.2345) < 0.0005 ? 0.9 : 0), 5);
    const loudest = level.indexOf(Math.max(...level));
    expect(Math.abs(loudest * 0.01 + 0.005 - 3.2345)).toBeLessThan(0.016);
    const highs = (peaks[0] ?? []).filter((_, k) => k % 2 === 1);
    expect(Math.abs(highs.indexOf(Math.max(...highs)) / peakLayerRate(0) - 3.2345)).toBeLessThan(0.006);
  });

  it('does not depend on how the samples were cut into chunks', () => {
    const signal = (t: number) => sine(300 + 40 * t, 0.2)(t) * Math.abs(Math.sin(t * 7));
    const whole = measure(44_100, signal, 2, 1e9);
    for (const chunk of [1, 441, 1000]) expect(measure(44_100, signal, 2, chunk)).toEqual(whole);
  });

  it('builds each layer of peaks from the one below', () => {
    const { peaks } = measure(48_000, (t) => sine(700, 0.5)(t) * Math.sin(t), 6);
    for (let layer = 1; layer < PEAK_LAYERS; layer++) {
      const below = peaks[layer - 1] as number[];
      const lows = below.filter((_, k) => k % 2 === 0);
      const highs = below.filter((_, k) => k % 2 === 1);
      const merged = Array.from({ length: Math.ceil(lows.length / 4) }, (_, k) => [
        Math.min(...lows.slice(k * 4, k * 4 + 4)),
        Math.max(...highs.slice(k * 4, k * 4 + 4)),
      ]).flat();
      expect(peaks[layer]).toEqual(merged);
    }
  });
});

describe('curve values', () => {
  it('keep half a decibel', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -127, max: 0, noNaN: true }),
        (level) => Math.abs(codeToDbfs(dbfsToCode(level)) - level) <= 0.25,
      ),
    );
  });

  it('show soft sound beside loud sound', () => {
    expect(compand(0)).toBe(0);
    expect(compand(-32768)).toBe(-127);
    expect(compand(33)).toBe(4); // −60 dBFS still has four of 127 steps
  });

  it('are read at the coarsest layer that has a bucket a pixel', () => {
    expect(layerFor(200)).toBe(0);
    expect(layerFor(85)).toBe(0);
    expect(layerFor(50)).toBe(1);
    expect(layerFor(0.01)).toBe(PEAK_LAYERS - 1);
  });
});

describe('curve files', () => {
  const header = { kind: 'level', bytesPerSample: 1, rateNum: 100, rateDen: 1, count: 3 } as const;

  it('read back what was written', () => {
    const bytes = new Uint8Array([...encodeHeader(header), 7, 8, 9]);
    expect(decodeCurve(bytes)).toEqual({ header, samples: new Uint8Array([7, 8, 9]) });
  });

  it('are refused when cut short, of another version, or something else', () => {
    expect(() => decodeCurve(new Uint8Array([...encodeHeader(header), 7]))).toThrow(/cut short/);
    expect(() => decodeCurve(new Uint8Array(HEADER_BYTES))).toThrow(/not a curve/);
    expect(() => decodeCurve(new Uint8Array(3))).toThrow();
    const later = encodeHeader(header);
    later[4] = 2;
    expect(() => decodeCurve(later)).toThrow(/version 2/);
  });
});
