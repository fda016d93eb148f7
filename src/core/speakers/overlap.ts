import { VOICE_BANDS } from '../curves/voiceFrames.ts';
import { probabilityOf } from '../detect/calibration/logistic.ts';
import { quantile } from '../numbers/quantile.ts';
import type { Range, Seconds } from '../time/range.ts';
import { FITTED_OVERLAP } from './fittedOverlap.ts';
import { PERIODICITIES, TIMBRE_RATE, type Timbre } from './timbre.ts';

/** Whether two speak at once is told of so much sound at a time: vowels come and go. */
const AROUND: Seconds = 0.6;
const HALF = Math.round((AROUND / 2) * TIMBRE_RATE);
/** What is shorter than this is no talk over one another. */
const LEAST: Seconds = 0.25;

/** What each moment is judged by: means over `AROUND`, and of squares. */
export const OVERLAP_EVIDENCE = [
  'first',
  'left',
  'second',
  'loud',
  'voiced',
  'both',
  'firstSquare',
  'leftSquare',
  'secondSquare',
  'loudSquare',
];
/** A frame is voiced from the first on, and holds a second voice from both on. */
const VOICED = 0.5;
const SECOND = 0.45;

/** Levels count within so many tens of decibels of the usual one of a voice. */
const FAINT = 4;

/** Level of each frame in decibels. */
function levelsOf(bands: Float32Array, count: number): Float32Array {
  const levels = new Float32Array(count);
  for (let k = 0; k < count; k++) {
    let power = 0;
    for (let band = 0; band < VOICE_BANDS; band++) power += 10 ** ((bands[k * VOICE_BANDS + band] as number) / 10);
    levels[k] = 10 * Math.log10(power);
  }
  return levels;
}

/** Evidence that two speak around each frame, `OVERLAP_EVIDENCE.length` numbers a frame. */
export function overlapEvidence({ bands, periodicity }: Timbre): Float32Array {
  const [count, size] = [periodicity.length / PERIODICITIES, OVERLAP_EVIDENCE.length];
  const sums = new Float64Array((count + 1) * size);
  const levels = levelsOf(bands, count);
  const voices = levels.filter((_, k) => (periodicity[k * PERIODICITIES] as number) >= VOICED);
  const usual = voices.length > 0 ? quantile([...voices], 0.5) : 0;
  for (let k = 0; k < count; k++) {
    const [first = 0, left = 0, second = 0] = periodicity.subarray(k * PERIODICITIES, (k + 1) * PERIODICITIES);
    const voiced = first >= VOICED ? 1 : 0;
    const both = voiced && second >= SECOND ? 1 : 0;
    // Where two speak the gaps between syllables are filled.
    const loud = Math.max(-FAINT, Math.min(FAINT, ((levels[k] as number) - usual) / 10));
    for (const [n, one] of [first, left, second, loud, voiced, both, first ** 2, left ** 2, second ** 2, loud ** 2].entries())
      sums[(k + 1) * size + n] = (sums[k * size + n] as number) + one;
  }
  const evidence = new Float32Array(count * size);
  for (let k = 0; k < count; k++) {
    const [from, to] = [Math.max(0, k - HALF), Math.min(count, k + HALF + 1)];
    for (let n = 0; n < size; n++)
      evidence[k * size + n] = ((sums[to * size + n] as number) - (sums[from * size + n] as number)) / (to - from);
  }
  return evidence;
}

/** Stretches in which two are heard to speak at once, in order. */
export function overlapsHeard(timbre: Timbre, model = FITTED_OVERLAP): Range[] {
  const evidence = overlapEvidence(timbre);
  const size = OVERLAP_EVIDENCE.length;
  const found: { start: number; end: number }[] = [];
  for (let k = 0; k * size < evidence.length; k++) {
    const named = Object.fromEntries(OVERLAP_EVIDENCE.map((name, n) => [name, evidence[k * size + n] as number]));
    if (probabilityOf(model, named) < model.least) continue;
    const [start, end] = [k / TIMBRE_RATE, (k + 1) / TIMBRE_RATE];
    const last = found.at(-1);
    if (last && start - last.end < 1e-6) last.end = end;
    else found.push({ start, end });
  }
  return found.filter(({ start, end }) => end - start >= LEAST);
}
