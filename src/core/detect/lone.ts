import { LEVEL_HOP, LEVEL_RATE } from '../curves/level.ts';
import type { Range, Seconds } from '../time/range.ts';
import { BLED_SHARE } from './bleed.ts';
import type { Settings } from './settings.ts';
import type { ListeningTrack, Runs } from './sounds.ts';
import { BLOCK } from './tracking.ts';

/** A lone sound stands at least this far from other sound: a closure before a final plosive is shorter. */
const LONE_DISTANCE: Seconds = 0.2;
/** Breaths last this long and stay this much under the voice. */
const BREATH_LENGTH: readonly [least: Seconds, most: Seconds] = [0.12, 0.6];
const BREATH_UNDER_SPEECH = 18;

/** What a sound that does not count as speech was taken for. */
export const IGNORED = { speck: 0, breath: 1, noise: 2 } as const;

/** Stretches of sound in level samples, by columns: live tuning goes through a million samples at each step. */
export interface SoundList {
  count: number;
  starts: Int32Array;
  ends: Int32Array;
  /** sounds taken for silence: start, end, what for, and 1 where the speech measure agrees; four numbers each */
  readonly ignored: number[];
}

/**
 * Takes out what is no speech: specks and breaths, short, standing alone and with no word in them; what another
 * microphone hears better; and, where the probability of speech is measured, noise however loud and long.
 */
export function speechOf(track: ListeningTrack, runs: Runs, settings: Settings, guards: readonly Range[]): SoundList {
  const { curve, tracked, bled } = track;
  const { count, starts, ends, peaks } = runs;
  const witness = settings.voice === 'join' ? track.witness : undefined;
  const { length } = curve.codes;
  const kept: SoundList = { count: 0, starts: new Int32Array(count + 8), ends: new Int32Array(count + 8), ignored: [] };
  const apart = LONE_DISTANCE * LEVEL_RATE;
  let guard = 0;
  for (let k = 0; k < count; k++) {
    const start = starts[k] as number;
    const end = ends[k] as number;
    if (bled && (bled[end] as number) - (bled[start] as number) >= BLED_SHARE * (end - start)) continue;
    const voice = tracked.speech[Math.floor(start / BLOCK)] as number;
    const as = loneKind((end - start) * LEVEL_HOP, peaks[k] as number, voice, settings);
    let lone =
      as !== undefined &&
      start - (k > 0 ? (ends[k - 1] as number) : -length) >= apart &&
      (k + 1 < count ? (starts[k + 1] as number) : 2 * length) - end >= apart;
    if (lone) {
      while (guard < guards.length && (guards[guard] as Range).end <= start * LEVEL_HOP) guard++;
      lone = !(guard < guards.length && (guards[guard] as Range).start < end * LEVEL_HOP);
    }
    if (lone && !(witness?.speaks(start, end) ?? false))
      kept.ignored.push(start, end, as as number, witness?.silent(start, end) ? 1 : 0);
    else keepSpeech(kept, start, end, witness ? witness.noiseIn(start, end) : NO_NOISE);
  }
  return kept;
}

const NO_NOISE: readonly number[] = [];

function loneKind(seconds: Seconds, peak: number, voice: number, settings: Settings): number | undefined {
  const [least, most] = BREATH_LENGTH;
  const breathLike = seconds >= least && seconds <= most && peak < voice - 2 * BREATH_UNDER_SPEECH;
  if (breathLike) return settings.breaths === 'pause' ? IGNORED.breath : undefined;
  return seconds <= settings.speck ? IGNORED.speck : undefined;
}

function keepSpeech(kept: SoundList, start: number, end: number, noise: readonly number[]): void {
  let from = start;
  for (let k = 0; k < noise.length; k += 2) {
    const [quiet, loud] = [noise[k] as number, noise[k + 1] as number];
    kept.ignored.push(quiet, loud, IGNORED.noise, 1);
    if (quiet > from) add(kept, from, quiet);
    from = loud;
  }
  if (end > from) add(kept, from, end);
}

function add(kept: SoundList, start: number, end: number): void {
  if (kept.count === kept.starts.length) {
    kept.starts = grown(kept.starts);
    kept.ends = grown(kept.ends);
  }
  kept.starts[kept.count] = start;
  kept.ends[kept.count++] = end;
}

function grown(values: Int32Array): Int32Array {
  const more = new Int32Array(values.length * 2);
  more.set(values);
  return more;
}

/** Sound of any of several tracks. */
export function mergeSounds(lists: readonly SoundList[]): SoundList {
  if (lists.length === 1) return lists[0] as SoundList;
  const total = lists.reduce((sum, list) => sum + list.count, 0);
  const merged: SoundList = {
    count: 0,
    starts: new Int32Array(total),
    ends: new Int32Array(total),
    ignored: lists.flatMap((list) => list.ignored),
  };
  const next = lists.map(() => 0);
  for (let taken = 0; taken < total; taken++) {
    let from = -1;
    for (const [k, list] of lists.entries()) {
      if ((next[k] as number) >= list.count) continue;
      if (from < 0 || (list.starts[next[k] as number] as number) < (lists[from]?.starts[next[from] as number] as number))
        from = k;
    }
    const list = lists[from] as SoundList;
    const at = next[from] as number;
    next[from] = at + 1;
    const last = merged.count - 1;
    if (last >= 0 && (list.starts[at] as number) <= (merged.ends[last] as number))
      merged.ends[last] = Math.max(merged.ends[last] as number, list.ends[at] as number);
    else {
      merged.starts[merged.count] = list.starts[at] as number;
      merged.ends[merged.count++] = list.ends[at] as number;
    }
  }
  return merged;
}
