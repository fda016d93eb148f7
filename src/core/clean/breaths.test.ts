import { describe, expect, it } from 'vitest';
import { BREATH_STEP, BreathTrace, breathGains, breathsIn } from './breaths.ts';
import { GainRider } from './gainRider.ts';

const RATE = 48_000;
const PROFILE = { noise: -70, speech: -20 };

/** Numbers that look random and are the same each time (Park and Miller). */
function* randomly(): Generator<number, never> {
  for (let state = 7; ; ) {
    state = (state * 48_271) % 2_147_483_647;
    yield state / 2_147_483_647 - 0.5;
  }
}

type Span = readonly [kind: 'gap' | 'voice' | 'breath' | 's', seconds: number, level?: number];

/** Sounds one after another: a voice, noise below 3 kHz as of breathing, bright noise as of an s; each so long and so loud. */
function sound(...spans: readonly Span[]): Float32Array {
  const random = randomly();
  const samples: number[] = [];
  for (const [kind, seconds, level = -20] of spans) {
    const made: number[] = [];
    let [low, lower] = [0, 0];
    for (let k = 0; k < seconds * RATE; k++) {
      const noise = random.next().value;
      low += 0.3 * (noise - low);
      lower += 0.05 * (low - lower);
      if (kind === 'voice')
        made.push(
          Array.from({ length: 12 }, (_, n) => Math.sin(((n + 1) * 2 * Math.PI * 120 * k) / RATE) / (n + 1)).reduce(
            (a, b) => a + b,
          ),
        );
      else made.push(kind === 'breath' ? low - lower : noise - low);
    }
    const power = Math.sqrt(made.reduce((sum, one) => sum + one * one, 0) / made.length);
    const gain = kind === 'gap' ? 1e-5 : 10 ** (level / 20) / power;
    for (const one of made) samples.push(gain * one);
  }
  return Float32Array.from(samples);
}

function found(samples: Float32Array) {
  const trace = new BreathTrace(RATE);
  for (let at = 0; at < samples.length; at += 5000) trace.push(samples.subarray(at, at + 5000));
  return breathsIn(trace.steps, PROFILE);
}

const OTHERS: readonly (readonly [what: string, spans: readonly Span[]])[] = [
  [
    'the end of a word',
    [
      ['voice', 1],
      ['breath', 0.3, -45],
      ['gap', 0.3],
    ],
  ],
  [
    'an s after a closure',
    [
      ['voice', 1],
      ['gap', 0.07],
      ['s', 0.25, -40],
      ['gap', 0.3],
    ],
  ],
  [
    'an f that begins a word',
    [
      ['gap', 0.5],
      ['breath', 0.15, -40],
      ['voice', 1],
    ],
  ],
  [
    'a soft vowel',
    [
      ['gap', 0.5],
      ['voice', 0.3, -40],
      ['gap', 0.5],
    ],
  ],
  [
    'noise as loud as a voice',
    [
      ['gap', 0.5],
      ['breath', 0.4, -25],
      ['gap', 0.5],
    ],
  ],
  [
    'noise that goes on',
    [
      ['gap', 0.5],
      ['breath', 2, -45],
      ['gap', 0.5],
    ],
  ],
  [
    'a knock',
    [
      ['gap', 0.5],
      ['breath', 0.06, -40],
      ['gap', 0.5],
    ],
  ],
  ['silence', [['gap', 1]]],
];

describe('breaths', () => {
  it('are found between words, and up to a word but for what may be its first consonant', () => {
    const alone = found(sound(['voice', 1], ['gap', 0.2], ['breath', 0.4, -45], ['gap', 0.2], ['voice', 1]));
    expect(alone).toHaveLength(1);
    expect(alone[0]?.start).toBeCloseTo(1.2, 1);
    expect(alone[0]?.end).toBeCloseTo(1.6, 1);
    const before = found(sound(['voice', 1], ['gap', 0.2], ['breath', 0.4, -45], ['voice', 1]));
    expect(before).toHaveLength(1);
    expect(before[0]?.end).toBeLessThan(1.5);
    expect(before[0]?.end).toBeGreaterThan(1.4);
  });

  it.each(OTHERS)('are not %s', (_, spans) => {
    expect(found(sound(...spans))).toEqual([]);
  });

  it('become softer by so many decibels, and nothing else does', () => {
    const samples = sound(['voice', 1], ['gap', 0.2], ['breath', 0.4, -45], ['gap', 0.2], ['voice', 1]);
    const [breath, ...others] = found(samples) as [{ start: number; end: number }];
    expect(others).toEqual([]);
    const out = samples.slice();
    const rider = new GainRider(breathGains([breath], 8, Math.ceil(samples.length / (BREATH_STEP * RATE))), BREATH_STEP, RATE);
    for (let at = 0; at < out.length; at += 777) rider.apply(out.subarray(at, at + 777));
    const middle = Math.round(1.4 * RATE);
    for (let k = middle; k < middle + 1000; k++) expect(out[k]).toBeCloseTo(10 ** (-8 / 20) * (samples[k] as number), 6);
    expect(out.subarray(0, 1.15 * RATE)).toEqual(samples.subarray(0, 1.15 * RATE));
    expect(out.subarray(1.65 * RATE)).toEqual(samples.subarray(1.65 * RATE));
    expect(breathGains([], 8, 10)).toHaveLength(0);
  });
});
