import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { SOUND_RATE } from '../contract/sound.ts';
import type { Piece } from '../programme/programme.ts';
import { programmeOf } from '../programme/programme.ts';
import { renderIntegers } from './integerSound.ts';
import { renderProgramme } from './programmeSound.ts';
import type { SampleSource } from './sampleSource.ts';

/** A recording of 16-bit samples that differ from place to place, in two forms. */
class Recording implements SampleSource {
  copied = 0;
  async copy(from: number, to: number, out: Float32Array, at: number) {
    for (let k = from; k < to; k++) for (const c of [0, 1]) out[2 * (at + k - from) + c] = valueAt(k, c) / 32_768;
  }
  async copyAsStored(from: number, to: number, out: Int16Array, at: number) {
    this.copied += to - from;
    for (let k = from; k < to; k++) for (const c of [0, 1]) out[2 * (at + k - from) + c] = valueAt(k, c);
  }
  once = (_: string, work: () => Promise<Float32Array>) => work();
}

const valueAt = (sample: number, channel: number) =>
  ((((sample * 7919 + channel * 104_729) % 65_536) + 65_536) % 65_536) - 32_768;

const piece = fc.record({
  gap: fc.double({ min: 0, max: 0.02, noNaN: true }),
  length: fc.double({ min: 0.001, max: 0.04, noNaN: true }),
  form: fc.constantFrom('plain', 'plain', 'plain', 'hole', 'mute', 'along'),
});

function piecesOf(drawn: readonly { gap: number; length: number; form: string }[]): Piece[] {
  let at = 0;
  return drawn.map(({ gap, length, form }) => {
    const start = at + gap;
    at = start + length;
    const range = { start, end: at };
    if (form === 'hole') return { ...range, rate: 1, hole: true };
    if (form === 'plain') return { ...range, rate: 1 };
    return { ...range, rate: 2, sound: form === 'along' ? 'along' : 'mute' };
  });
}

describe('the sound of a programme in 16 bits', () => {
  it('is that of the programme, rounded, in whatever stretches it is asked for, and mostly copied', async () => {
    const joins = fc.record({ crossfade: fc.constantFrom(0, 0.002, 0.01) });
    await fc.assert(
      fc.asyncProperty(
        fc.array(piece, { minLength: 1, maxLength: 8 }),
        joins,
        fc.integer({ min: 50, max: 900 }),
        async (drawn, how, step) => {
          const programme = programmeOf(piecesOf(drawn));
          const total = Math.round(programme.length * SOUND_RATE);
          const wanted = await renderProgramme(programme, new Recording(), 0, total, how);
          const found: number[] = [];
          for (let at = 0; at < total; at += step)
            found.push(...(await renderIntegers(programme, new Recording(), at, step, how)));
          expect(found.length).toBe(wanted.length);
          const worst = found.reduce((most, value, k) => {
            const exact = Math.max(-32_768, Math.min(32_767, (wanted[k] as number) * 32_768));
            return Math.max(most, Math.abs(value - exact));
          }, 0);
          expect(worst).toBeLessThanOrEqual(0.5);
        },
      ),
      { numRuns: 150 },
    );
  });

  it('copies all but what a seam reaches, and works everything out where the source has no such samples', async () => {
    const programme = programmeOf([
      { start: 0, end: 1, rate: 1 },
      { start: 3, end: 4, rate: 1 },
    ]);
    const recording = new Recording();
    const sound = await renderIntegers(programme, recording, 0, 2 * SOUND_RATE, { crossfade: 0.01 });
    expect(recording.copied).toBe(2 * SOUND_RATE - 0.01 * SOUND_RATE);
    const floating: SampleSource = { copy: recording.copy, once: recording.once };
    expect(await renderIntegers(programme, floating, 0, 2 * SOUND_RATE, { crossfade: 0.01 })).toEqual(sound);
  });

  it('holds what would be louder than 16 bits can say at their ends', async () => {
    const loud: SampleSource = {
      copy: async (from, to, out, at) => {
        out.fill(1.5, 2 * at, 2 * (at + to - from) - 1);
        out[2 * (at + to - from) - 1] = -1.5;
      },
      once: (_, work) => work(),
    };
    const sound = await renderIntegers(programmeOf([{ start: 0, end: 0.01, rate: 1 }]), loud, 0, 480);
    expect([sound[0], sound.at(-1)]).toEqual([32_767, -32_768]);
  });
});
