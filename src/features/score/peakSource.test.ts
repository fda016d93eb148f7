import { afterEach, describe, expect, it, vi } from 'vitest';
import { PEAK_LAYERS } from '@/core/curves/peaks.ts';
import { PeakSource } from './peakSource.ts';

const LAYER = PEAK_LAYERS - 1;

/** Asks for peaks of a ten-second recording from a server that gives these answers, one after another. */
async function ask(...answers: (() => Response)[]) {
  vi.useFakeTimers();
  const fetched = vi.fn(async () => (answers.length > 1 ? answers.shift() : answers[0])?.() as Response);
  vi.stubGlobal('fetch', fetched);
  const peaks = new PeakSource();
  peaks.configure([{ mediaId: 'bench', tracks: 1, start: 0, end: 10 }]);
  const told = vi.fn();
  peaks.onLoad(told);
  const out = { low: 0, high: 0 };
  const read = () => peaks.read(0, LAYER, 0, 0.001, out);
  read();
  await vi.advanceTimersByTimeAsync(10);
  return { read, told, out, fetched };
}

const bytes = (...values: number[]) => new Response(new Int8Array(values), { status: 206 });

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('peaks', () => {
  it('are there once they have come', async () => {
    const { read, told, out, fetched } = await ask(() => bytes(-7, 9));
    expect(told).toHaveBeenCalledTimes(1);
    expect(read()).toBe(true);
    expect(out).toEqual({ low: -7, high: 9 });
    expect(fetched).toHaveBeenCalledTimes(1);
  });

  it('past the end are none', async () => {
    const { read, out } = await ask(() => new Response(null, { status: 416 }));
    expect(read()).toBe(true);
    expect(out).toEqual({ low: 0, high: 0 });
  });

  for (const [what, answer] of [
    [
      'that the line lost',
      () => {
        throw new TypeError('Failed to fetch');
      },
    ],
    ['that a server refused which just starts', () => new Response('', { status: 503 })],
  ] as const)
    it(`${what} are asked for again`, async () => {
      const { read, told, out, fetched } = await ask(answer, () => bytes(-1, 2));
      expect(told).toHaveBeenCalledTimes(0);
      await vi.advanceTimersByTimeAsync(3000);
      expect(told).toHaveBeenCalledTimes(1);
      // Only what still wants them asks.
      expect(fetched).toHaveBeenCalledTimes(1);
      expect(read()).toBe(false);
      await vi.advanceTimersByTimeAsync(10);
      expect(told).toHaveBeenCalledTimes(2);
      expect(read()).toBe(true);
      expect(out).toEqual({ low: -1, high: 2 });
    });
});
