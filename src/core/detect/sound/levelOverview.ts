import { codeToDbfs, type Dbfs } from '../../curves/level.ts';
import { listeningTracks, type Settings } from '../settings.ts';
import type { PreparedPauses } from './pauses.ts';
import { openAt } from './sounds.ts';

/** How often each level occurs, and where room, voice and threshold lie. */
export interface LevelHistogram {
  /** level of the first bin; each is one decibel wide */
  readonly from: Dbfs;
  /** share of the time at each level, 0..1 */
  readonly shares: readonly number[];
  /** medians along the recording */
  readonly floor: Dbfs;
  readonly speech: Dbfs;
  readonly threshold: Dbfs;
}

/** Bins of one decibel from here up to full scale: quieter is digital silence and all the same. */
const LOWEST: Dbfs = -100;

/** The levels of all listening tracks together. */
export function levelHistogram(prepared: PreparedPauses, settings: Settings): LevelHistogram {
  const counts = new Float64Array(-LOWEST + 1);
  const floors: number[] = [];
  const voices: number[] = [];
  const thresholds: number[] = [];
  let all = 0;
  for (const track of listeningTracks(settings.listen, prepared.tracks.length)) {
    const { curve, tracked } = prepared.tracks[track] as (typeof prepared.tracks)[number];
    const codes = new Float64Array(256);
    for (let k = 0; k < curve.codes.length; k++) {
      const code = curve.codes[k] as number;
      codes[code] = (codes[code] as number) + 1;
    }
    for (let code = 0; code < 256; code++) {
      const bin = Math.min(counts.length - 1, Math.max(0, Math.round(codeToDbfs(code) - LOWEST)));
      counts[bin] = (counts[bin] as number) + (codes[code] as number);
      all += codes[code] as number;
    }
    for (let block = 0; block < tracked.floor.length; block++) {
      floors.push(tracked.floor[block] as number);
      voices.push(tracked.speech[block] as number);
      thresholds.push(openAt(tracked, block, settings.threshold));
    }
  }
  return {
    from: LOWEST,
    shares: Array.from(counts, (count) => (all > 0 ? count / all : 0)),
    floor: codeToDbfs(median(floors)),
    speech: codeToDbfs(median(voices)),
    threshold: settings.threshold === 'auto' ? codeToDbfs(median(thresholds)) : settings.threshold,
  };
}

const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1] ?? 0;
