import { LEVEL_HOP, LEVEL_RATE } from '../../curves/level.ts';
import type { Range, Seconds } from '../../time/range.ts';
import type { Settings } from '../settings.ts';
import { BLOCK } from './levelTracking.ts';
import { SILENT } from './runs.ts';
import type { ListeningTrack, Sounds } from './sounds.ts';

/** A lone sound stands at least this far from other sound: a closure before a final plosive is shorter. */
const LONE_DISTANCE: Seconds = 0.2;
/** The same where the speech measure hears nobody in it: it goes on hearing a word longer than its last closure lasts. */
const SILENT_DISTANCE: Seconds = 0.1;
/** Breaths last this long and stay this much under the voice. */
const BREATH_LENGTH: readonly [least: Seconds, most: Seconds] = [0.12, 0.6];
const BREATH_UNDER_SPEECH = 18;

/** What a sound that does not count as speech was taken for. */
export const IGNORED = { speck: 0, breath: 1, noise: 2 } as const;

/** Longer or louder than any speck or breath. */
const NO_LONE_SOUND = -1;

/** Stretches of sound in level samples, by columns: live tuning goes through a million samples at each step. */
export interface SoundList {
  count: number;
  readonly starts: Int32Array;
  readonly ends: Int32Array;
  /**
   * Sounds taken for silence, lists in order of time: start, end, what for, and 1 where the speech measure agrees, 2 where no
   * voice is that even; four numbers each.
   */
  readonly ignored: readonly (readonly number[])[];
}

/**
 * Takes out what is no speech: specks and breaths, short, standing alone and with no word in them; and short sound beside
 * speech in which the speech measure hears nobody.
 */
export function speechOf(
  track: ListeningTrack,
  { runs, noise, steady }: Sounds,
  settings: Settings,
  guards: readonly Range[],
): SoundList {
  const { curve, tracked } = track;
  const { count, starts, ends, peaks, strong } = runs;
  const witness = settings.voice === 'join' ? track.witness : undefined;
  const { length } = curve.codes;
  const ignored: number[] = [];
  const kept = {
    count: 0,
    starts: new Int32Array(count),
    ends: new Int32Array(count),
    ignored: [ignored, asIgnored(noise, 1), asIgnored(steady, 2)],
  };
  const apart = LONE_DISTANCE * LEVEL_RATE;
  const heardApart = SILENT_DISTANCE * LEVEL_RATE;
  const longest = Math.max(settings.speck, BREATH_LENGTH[1]) * LEVEL_RATE;
  const kindAt = (k: number): number => {
    const [start, end] = [starts[k] as number, ends[k] as number];
    if (end - start > longest) return NO_LONE_SOUND;
    const kind = kindOf(
      (end - start) * LEVEL_HOP,
      peaks[k] as number,
      tracked.speech[Math.floor(start / BLOCK)] as number,
      settings.speck,
    );
    return kind === IGNORED.noise && strong[k] !== SILENT ? NO_LONE_SOUND : kind;
  };
  let guard = 0;
  // Keys and clicks come in rows: each is as far from speech as the nearest sound that is no speck itself.
  let lastSpeech = -length;
  let nextSpeech = 0;
  let next = 0;
  for (let k = 0; k < count; k++) {
    const start = starts[k] as number;
    const end = ends[k] as number;
    let dropped = false;
    const kind = kindAt(k);
    if (kind !== NO_LONE_SOUND) {
      if (next <= k) {
        next = k + 1;
        while (next < count && kindAt(next) !== NO_LONE_SOUND) next++;
        nextSpeech = next < count ? (starts[next] as number) : 2 * length;
      }
      const silent = strong[k] === SILENT;
      const least = silent ? heardApart : apart;
      const noSpeech = (start - lastSpeech >= least && nextSpeech - end >= least) || (silent && end - start >= LEAST_BESIDE);
      if (noSpeech && !(kind === IGNORED.breath && settings.breaths === 'speech')) {
        while (guard < guards.length && (guards[guard] as Range).end <= start * LEVEL_HOP) guard++;
        const spoken = guard < guards.length && (guards[guard] as Range).start < end * LEVEL_HOP;
        dropped = !spoken && (silent || !(witness?.speaks(start, end) ?? false));
        if (dropped) ignored.push(start, end, kind, silent ? 1 : 0);
      }
    }
    if (!dropped) lastSpeech = end;
    if (dropped) continue;
    kept.starts[kept.count] = start;
    kept.ends[kept.count++] = end;
  }
  return kept;
}

/** Short sound beside speech is left with it unless it is longer than this: the model may be late. */
const LEAST_BESIDE = 0.1 * LEVEL_RATE;

function asIgnored(noise: readonly number[], agreed: 1 | 2): number[] {
  const fours: number[] = [];
  for (let k = 0; k < noise.length; k += 2) fours.push(noise[k] as number, noise[k + 1] as number, IGNORED.noise, agreed);
  return fours;
}

/** What a short sound would be taken for, by its length and level alone. */
function kindOf(seconds: Seconds, peak: number, voice: number, speck: Seconds): number {
  const [least, most] = BREATH_LENGTH;
  if (seconds >= least && seconds <= most && peak < voice - 2 * BREATH_UNDER_SPEECH) return IGNORED.breath;
  return seconds <= speck ? IGNORED.speck : IGNORED.noise;
}

/** Sound of any of several tracks. */
export function mergeSounds(lists: readonly SoundList[]): SoundList {
  if (lists.length === 1) return lists[0] as SoundList;
  const total = lists.reduce((sum, list) => sum + list.count, 0);
  const merged = {
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
