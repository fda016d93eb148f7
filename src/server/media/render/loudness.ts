import type { Loudness } from '@/core/clean/loudness.ts';

/** Peaks stay this far under full scale, in dB true peak, so that lossy encoders do not clip. */
const CEILING = -1.5;
/** The rate at which peaks between samples show. */
const TRUE_PEAK_RATE = 192_000;

/** A filter that leaves sound as it is and says at the end how loud it was (EBU R 128). */
export const MEASURING = 'ebur128=peak=true:framelog=verbose';

/** What the filter said at the end. Undefined for silence, which has no loudness. */
export function readLoudness(said: string): Loudness | undefined {
  const summary = said.slice(said.lastIndexOf('Summary:'));
  const figure = (name: string) => Number(new RegExp(`${name}:\\s+(-?[\\d.]+)`).exec(summary)?.[1] ?? Number.NaN);
  const [integrated, range, truePeak] = [figure('I'), figure('LRA'), figure('Peak')];
  // The meter's gate is at -70: what is under it is silence.
  if (!Number.isFinite(integrated) || !Number.isFinite(truePeak) || integrated <= -70) return undefined;
  return { integrated, range, truePeak };
}

/**
 * Filters that bring sound to a loudness by one gain for all of it, and hold peaks down that it would lift too far.
 * @param gain in dB
 */
export function levelling(gain: number, truePeak: number): string[] {
  const louder = `volume=${gain.toFixed(2)}dB`;
  if (truePeak + gain <= CEILING) return [louder];
  const limit = (10 ** (CEILING / 20)).toFixed(5);
  return [
    louder,
    `aresample=${TRUE_PEAK_RATE}`,
    `alimiter=limit=${limit}:attack=5:release=60:level=false:latency=true`,
    'aresample=48000',
  ];
}
