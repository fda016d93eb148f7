import { useEffect, useMemo, useState } from 'react';
import type { Ink } from './ink.ts';
import type { PeakSource } from './peakSource.ts';
import type { RowPart } from './rows.ts';
import { PaintedWave, readWave } from './wave.ts';

/** The waves of a row, another one when peaks have come that it lacks. */
export function useWave(peaks: PeakSource, parts: readonly RowPart[], width: number, rowSeconds: number, ink: Ink): PaintedWave {
  const density = window.devicePixelRatio || 1;
  const [version, setVersion] = useState(0);
  const { painted, seen } = useMemo(
    () => ({
      seen: peaks.loads,
      painted: new PaintedWave(readWave(peaks, parts, width * density, rowSeconds), ink, density),
    }),
    [peaks, version, parts, width, rowSeconds, density, ink],
  );
  useEffect(() => {
    const { complete, gain } = painted.wave;
    return onFrame(peaks, seen, () => {
      if (!complete || gain !== peaks.gain) setVersion((before) => before + 1);
    });
  }, [peaks, painted, seen]);
  return painted;
}

/**
 * Calls back at most once a frame when peaks have come.
 * @param seen loads that the caller knows of: what has come between reading and asking counts as well
 * @returns a function that stops it
 */
export function onFrame(peaks: Pick<PeakSource, 'loads' | 'onLoad'>, seen: number, work: () => void): () => void {
  let frame = 0;
  const ask = () => {
    frame ||= requestAnimationFrame(() => {
      frame = 0;
      work();
    });
  };
  const stop = peaks.onLoad(ask);
  if (peaks.loads !== seen) ask();
  return () => {
    stop();
    cancelAnimationFrame(frame);
  };
}
