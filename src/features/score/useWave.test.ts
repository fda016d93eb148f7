import { afterEach, describe, expect, it, vi } from 'vitest';
import { onFrame } from './useWave.ts';

/** Peaks that come when told to, and frames that are drawn when told to. */
function scene() {
  const listeners = new Set<() => void>();
  const frames: (() => void)[] = [];
  vi.stubGlobal('requestAnimationFrame', (work: () => void) => frames.push(work));
  vi.stubGlobal('cancelAnimationFrame', () => frames.splice(0));
  const peaks = {
    loads: 0,
    onLoad(listener: () => void) {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
  };
  const load = () => {
    peaks.loads++;
    for (const listener of listeners) listener();
  };
  const draw = () => {
    for (const work of frames.splice(0)) work();
  };
  return { peaks, load, draw };
}

afterEach(() => vi.unstubAllGlobals());

describe('peaks that come', () => {
  it('are told once a frame, and no more once nobody asks', () => {
    const { peaks, load, draw } = scene();
    const told = vi.fn();
    const stop = onFrame(peaks, 0, told);
    draw();
    expect(told).toHaveBeenCalledTimes(0);
    load();
    load();
    draw();
    expect(told).toHaveBeenCalledTimes(1);
    load();
    stop();
    draw();
    expect(told).toHaveBeenCalledTimes(1);
  });

  it('between reading them and asking to be told are not missed', () => {
    const { peaks, load, draw } = scene();
    const seen = peaks.loads;
    load();
    const told = vi.fn();
    onFrame(peaks, seen, told);
    draw();
    expect(told).toHaveBeenCalledTimes(1);
  });
});
