import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { CEPSTRUM_HOP, CEPSTRUM_SAMPLE_RATE, type Cepstra, CepstrumMeter, COEFFICIENTS } from './cepstra.ts';
import { type Echo, packEchoes, unpackEchoes } from './echoes.ts';
import { findEchoes } from './listening.ts';

/** Made-up sounds: each letter of a text a point among the cepstra, held for a while, with a little wavering. */
function spoken(lines: readonly { readonly text: string; readonly pace?: number }[]) {
  const values: number[] = [];
  const stretches: { start: number; end: number }[] = [];
  let seed = 1;
  const random = () => {
    seed = (seed * 48_271) % 2_147_483_647;
    return seed / 2_147_483_647 - 0.5;
  };
  const pointOf = (letter: string) =>
    Array.from({ length: COEFFICIENTS }, (_, k) => 2.4 * Math.sin(letter.charCodeAt(0) * (k + 1.37) * 1.7));
  const frame = (point: readonly number[]) => values.push(...point.map((value) => value + 0.8 * random()));
  const silence = (frames: number) => {
    for (let k = 0; k < frames; k++) frame(Array.from({ length: COEFFICIENTS }, () => 0));
  };
  silence(30);
  for (const { text, pace = 1 } of lines) {
    const start = (values.length / COEFFICIENTS) * CEPSTRUM_HOP;
    for (const letter of text) for (let k = 0; k < Math.round(5 * pace); k++) frame(pointOf(letter));
    stretches.push({ start, end: (values.length / COEFFICIENTS) * CEPSTRUM_HOP });
    silence(30);
  }
  const cepstra: Cepstra = { values: Float32Array.from(values), frames: values.length / COEFFICIENTS };
  return { cepstra, stretches };
}

const echoesIn = (...lines: Parameters<typeof spoken>[0]): Echo[] => {
  const { cepstra, stretches } = spoken(lines);
  return [...findEchoes(cepstra, stretches)].flatMap(({ echoes }) => echoes);
};

describe('lines said again, by ear', () => {
  it('are heard when the second try is slower, and told how long they go together', () => {
    // What hardly goes together is weighed later: see links.
    const [echo] = echoesIn(
      { text: 'quickbrownjmpsfl' },
      { text: 'otherwordsaltogether' },
      { text: 'quickbrownjmpsfl', pace: 1.4 },
    ).sort((a, b) => b.matched - a.matched);
    expect(echo?.left.start).toBeCloseTo(0.6, 2);
    expect(echo?.matched).toBeCloseTo(16 * 5 * CEPSTRUM_HOP, 0);
    expect(echo?.closeness).toBeLessThan(0.3);
  });

  it('are heard when the first try breaks off, and end with the stretch that it breaks off in', () => {
    const { cepstra, stretches } = spoken([{ text: 'thespringisletdown' }, { text: 'thespringisletdownbyaquarter' }]);
    const [echo] = [...findEchoes(cepstra, stretches)].flatMap(({ echoes }) => echoes);
    expect(echo?.left).toEqual(stretches[0]);
    expect(echo?.right).toEqual(stretches[1]);
  });

  it('are heard when one begins with a word more', () => {
    expect(echoesIn({ text: 'thewheelsgointothebath' }, { text: 'kkthewheelsgointothebath' })).toHaveLength(1);
  });

  it('are not heard where only the first sounds are the same', () => {
    expect(echoesIn({ text: 'thefirstiscleaning' }, { text: 'theqzxvjkpbmwuygh' })).toEqual([]);
  });

  it('are not made of a bell or a motor that comes again: what repeats itself is no line', () => {
    expect(echoesIn({ text: 'abc'.repeat(8) }, { text: 'something' }, { text: 'abc'.repeat(8) })).toEqual([]);
  });

  it('are none in one stretch, in silence, or more than five minutes apart', () => {
    expect(echoesIn({ text: 'alone' })).toEqual([]);
    expect([...findEchoes({ values: new Float32Array(0), frames: 0 }, [])]).toEqual([]);
    const { cepstra, stretches } = spoken([{ text: 'quickbrownjmpsfl' }, { text: 'quickbrownjmpsfl' }]);
    const apart = stretches.map(({ start, end }, k) => ({ start: start + 400 * k, end: end + 400 * k }));
    const frames = Math.round(450 / CEPSTRUM_HOP);
    const values = new Float32Array(frames * COEFFICIENTS);
    for (const [k, { start, end }] of stretches.entries()) {
      const from = Math.round(start / CEPSTRUM_HOP) * COEFFICIENTS;
      const to = Math.round(end / CEPSTRUM_HOP) * COEFFICIENTS;
      values.set(cepstra.values.subarray(from, to), Math.round((apart[k]?.start ?? 0) / CEPSTRUM_HOP) * COEFFICIENTS);
    }
    expect([...findEchoes({ values, frames }, apart)].flatMap(({ echoes }) => echoes)).toEqual([]);
  });

  it('are kept in files to the millisecond', () => {
    const range = fc
      .tuple(fc.integer({ min: 0, max: 36_000_000 }), fc.integer({ min: 1, max: 60_000 }))
      .map(([from, length]) => ({
        start: from / 1000,
        end: (from + length) / 1000,
      }));
    const echo = fc.record({
      left: range,
      right: range,
      matched: fc.integer({ min: 0, max: 6000 }).map((n) => n / 100),
      closeness: fc.integer({ min: 0, max: 100 }).map((n) => n / 100),
    });
    fc.assert(
      fc.property(fc.array(echo, { maxLength: 20 }), (echoes) => {
        expect(unpackEchoes(packEchoes(echoes))).toEqual(echoes);
      }),
    );
  });
});

describe('cepstra', () => {
  const tone = (hertz: number, seconds: number, loudness: number) =>
    Float64Array.from(
      { length: seconds * CEPSTRUM_SAMPLE_RATE },
      (_, k) => loudness * Math.sin((2 * Math.PI * hertz * k) / CEPSTRUM_SAMPLE_RATE),
    );
  const measured = (...sounds: readonly Float64Array[]) => {
    const meter = new CepstrumMeter();
    // In pieces of odd sizes: where a piece ends must not matter.
    for (const sound of sounds) for (let at = 0; at < sound.length; at += 777) meter.push(sound.subarray(at, at + 777));
    return meter.end();
  };
  const at = ({ values }: Cepstra, seconds: number) => {
    const frame = Math.round(seconds / CEPSTRUM_HOP) * COEFFICIENTS;
    return values.subarray(frame, frame + COEFFICIENTS);
  };
  const distance = (a: Float32Array, b: Float32Array) => Math.hypot(...a.map((value, k) => value - (b[k] as number)));

  it('are the same for the same sound, however loud, and others for another', () => {
    const found = measured(tone(300, 1, 0.5), tone(300, 1, 0.05), tone(1900, 1, 0.5));
    expect(distance(at(found, 0.5), at(found, 1.5))).toBeLessThan(0.1);
    expect(distance(at(found, 0.5), at(found, 2.5))).toBeGreaterThan(1);
  });

  it('have one frame each fiftieth of a second, centred on its moment', () => {
    expect(measured(tone(300, 2, 0.5)).frames).toBe(100);
  });
});
