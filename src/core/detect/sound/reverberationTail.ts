import { LEVEL_RATE, type LevelCurve } from '../../curves/level.ts';
import type { Runs } from './runs.ts';

/** In level codes of half a decibel: the voice itself has stopped when a sound has fallen this far under its last peak. */
const FALLEN = 30;
/** Level samples before its end in which that peak is looked for, and the silence that must follow. */
const PEAK_WITHIN = 0.6 * LEVEL_RATE;
const SILENCE_AFTER = 0.3 * LEVEL_RATE;
const LEAST_RUN = 0.2 * LEVEL_RATE;
/** How long a dry sound takes to fall from there into the room: the meter's window, and the release of a word. */
const DRY = 0.05 * LEVEL_RATE;
const LEAST_TAIL = 0.03 * LEVEL_RATE;
const MOST_TAIL = 0.3 * LEVEL_RATE;
/** Words end softly or at once; a room lets none end at once. So the endings that fall fastest tell the room: this share of them. */
const FASTEST = 0.15;
const LEAST_ENDINGS = 8;

/**
 * How long the room goes on sounding after words: what even the endings that fall the fastest take longer than in a dry recording.
 * An exponential decay has by then taken some time for the first of its fall already.
 * @param runs stretches of sound, in level samples
 * @returns level samples, 0 for a dry recording
 */
export function roomTail({ codes }: LevelCurve, runs: Runs): number {
  const endings: { readonly fall: number; readonly depth: number }[] = [];
  for (let k = 0; k < runs.count; k++) {
    const [start, end] = [runs.starts[k] as number, runs.ends[k] as number];
    const next = k + 1 < runs.count ? (runs.starts[k + 1] as number) : codes.length;
    if (runs.strong[k] !== 1 || end - start < LEAST_RUN || next - end < SILENCE_AFTER) continue;
    const last = voiceEnd(codes, start, end);
    endings.push({ fall: end - 1 - last, depth: (codes[last] as number) - (codes[end - 1] as number) });
  }
  if (endings.length < LEAST_ENDINGS) return 0;
  const { fall, depth } = endings.sort((a, b) => a.fall - b.fall)[
    Math.floor(FASTEST * endings.length)
  ] as (typeof endings)[number];
  if (fall - DRY < LEAST_TAIL) return 0;
  const before = Math.max(0, Math.round((FALLEN * fall) / Math.max(1, depth)) - DRY);
  return Math.min(MOST_TAIL, fall - DRY + before);
}

/** Takes the room's tail off the end of each stretch, never more than has fallen off. Changes the runs. */
export function takeTailOff(runs: Runs, { codes }: LevelCurve, tail: number): void {
  if (tail === 0) return;
  for (let k = 0; k < runs.count; k++) {
    const [start, end] = [runs.starts[k] as number, runs.ends[k] as number];
    runs.ends[k] = Math.max(voiceEnd(codes, start, end) + 1, end - tail);
  }
}

/** The last sample before a sound has fallen off for good. */
function voiceEnd(codes: Uint8Array, start: number, end: number): number {
  const from = Math.max(start, end - PEAK_WITHIN);
  let peak = 0;
  for (let k = from; k < end; k++) peak = Math.max(peak, codes[k] as number);
  let last = end - 1;
  while (last > from && (codes[last] as number) < peak - FALLEN) last--;
  return last;
}
