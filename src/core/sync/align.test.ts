import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { agreement, align, CLOSE_RATE, type Listened, type Stretch } from './align.ts';
import { bestShift } from './correlation.ts';
import { OnsetMeter } from './onsets.ts';

/** Bursts of noise as somebody talks, at moments that a seed decides. */
function talk(seed: number, seconds: number): Float32Array {
  let state = seed;
  const random = () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return state / 2 ** 32;
  };
  const samples = new Float32Array(seconds * CLOSE_RATE);
  for (let at = 0; at < samples.length; at += Math.round((0.1 + 0.5 * random()) * CLOSE_RATE)) {
    const [length, loud] = [Math.round((0.05 + 0.2 * random()) * CLOSE_RATE), 0.1 + random()];
    for (let k = at; k < Math.min(samples.length, at + length); k++) samples[k] = loud * (random() - 0.5);
  }
  return samples;
}

/** What a microphone with a clock and a start of its own hears of it. */
function heardFrom(samples: Float32Array, place: number, drift: number, loud: number): Float32Array {
  const count = Math.floor((samples.length - place * CLOSE_RATE) * (1 + drift));
  return Float32Array.from({ length: count }, (_, k) => {
    const at = k / (1 + drift) + place * CLOSE_RATE;
    const [low, part] = [Math.floor(at), at - Math.floor(at)];
    return loud * ((samples[low] ?? 0) * (1 - part) + (samples[low + 1] ?? 0) * part);
  });
}

function listened(samples: Float32Array): Listened {
  const meter = new OnsetMeter(CLOSE_RATE);
  meter.push(Float64Array.from(samples));
  return {
    duration: samples.length / CLOSE_RATE,
    onsets: meter.onsets(),
    samples: async (from, length) => {
      const first = Math.round(from * CLOSE_RATE);
      return Float32Array.from({ length: Math.round(length * CLOSE_RATE) }, (_, k) => samples[first + k] ?? 0);
    },
  };
}

describe('two recordings of one moment', () => {
  const room = talk(5, 150);

  it.each([
    ['a later start', 7.1234, 0, 0.05],
    ['a start before the first', -6.5, 0, 1],
    ['a clock of its own', 3.3, 1.2e-4, 0.3],
  ])('are laid on one another to a tenth of a millisecond: %s', async (_, place, drift, loud) => {
    const fit = await align(listened(room.subarray(7 * CLOSE_RATE)), listened(heardFrom(room, place + 7, drift, loud)));
    // Bursts of noise lose likeness where clocks differ, as no voice does.
    expect(fit?.agree).toBeGreaterThanOrEqual((fit?.of ?? 9) - (drift === 0 ? 0 : 1));
    expect(Math.abs((fit?.place ?? 0) - place)).toBeLessThan(drift === 0 ? 1e-4 : 1e-3);
    expect(Math.abs((fit?.drift ?? 0) - drift)).toBeLessThan(1e-5);
  });

  it('are not laid on one another when they are of different moments', async () => {
    expect(await align(listened(room), listened(talk(6, 70)))).toBeUndefined();
  });
});

describe('what stretches agree about', () => {
  const stretch = (at: number, place: number, height = 40): Stretch => ({ at, length: 6, place, height });

  it('is what most that stand out say, whatever the others do', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -100, max: 100, noNaN: true }),
        fc.constantFrom(0, 6e-5, -3e-4),
        fc.array(fc.double({ min: -300, max: 300, noNaN: true }), { maxLength: 2 }),
        (place, slope, wrong) => {
          const right = [0, 200, 400, 600, 800].map((at) => stretch(at, place + slope * at));
          const all = [...wrong.map((one, k) => stretch(100 + 200 * k, one)), ...right].sort((a, b) => a.at - b.at);
          const fit = agreement(all, 10);
          expect(Math.abs((fit?.place ?? Number.NaN) - place)).toBeLessThan(0.005);
          expect(Math.abs((fit?.drift ?? Number.NaN) + slope / (1 + slope))).toBeLessThan(1e-5);
        },
      ),
    );
  });

  it('is nothing where only one is clear', () => {
    expect(agreement([stretch(0, 1), stretch(60, 9, 3), stretch(120, 30, 4)], 10)).toBeUndefined();
    expect(agreement([stretch(0, 1), stretch(9, 1.001)], 10)).toEqual({ place: 1.0005, drift: 0, agree: 2, of: 2 });
    expect(agreement([stretch(0, 1), stretch(5, 1)], 10)).toBeUndefined();
    expect(agreement([], 10)).toBeUndefined();
  });

  it('is no drift that no clock has', () => {
    expect(agreement([stretch(0, 0), stretch(200, 1), stretch(400, 2)], 10)).toBeUndefined();
  });
});

describe('the shift of a signal', () => {
  it('is found at every place in a longer one, with its neighbours on either side', () => {
    const long = talk(9, 3);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 * CLOSE_RATE }), (at) => {
        const { shift, height } = bestShift(long, long.slice(at, at + CLOSE_RATE), 1, { low: 0.01, high: 0.4 });
        expect(Math.abs(shift - at)).toBeLessThan(0.5);
        expect(height).toBeGreaterThan(20);
      }),
      { numRuns: 10 },
    );
  });
});
