import { LRUCache } from 'lru-cache';
import { dbfsToCode, LEVEL_RATE, type LevelCurve } from '../../curves/level.ts';
import type { SpeechCurve } from '../../curves/speech.ts';
import type { Seconds } from '../../time/range.ts';
import type { Material } from '../detector.ts';
import type { Settings } from '../settings.ts';
import { floorWhereHushed } from './backgroundFloor.ts';
import { BLED_SHARE, countBled } from './bleed.ts';
import { EXTENT, type Extents, extentsOf } from './levelExtents.ts';
import { BLOCK, type TrackedLevels, trackLevels } from './levelTracking.ts';
import { roomTail, takeTailOff } from './reverberationTail.ts';
import { addRun, newRuns, type Runs, SILENT, trimmed } from './runs.ts';
import { LEAST_TRUST, SpeechWitness, trustIn } from './speechProbability.ts';
import { steadyNoise, within } from './steadyNoise.ts';

/** Sound starts at this much over the floor, in decibels: steady noise stays within three or four of its floor. */
const OPEN_OVER_FLOOR = 8;
/** ... or at this share of the way up to the voice, when the voice is far above. */
const OPEN_SHARE = 0.16;
/** ... and, once started, goes on (and began) as long as it is this much over the floor. */
const HOLD_OVER_FLOOR = 3;
const HOLD_SHARE = 0.07;
/** Sound this little over the holding threshold counts as part of a word when it stands this near to louder sound. */
const FAINT_OVER_HOLD = 1;
const FAINT_DISTANCE: Seconds = 0.12;
/** With a threshold set by hand, sound that reached it goes on down to this much under it. */
const HOLD_UNDER_FIXED = 3;
/** Thresholds whose sounds are kept: marked ranges may ask for another one at each step of a slider. */
const KEPT_ANSWERS = 4;

/** A track with what is tracked along it. */
export interface ListeningTrack {
  readonly curve: LevelCurve;
  readonly tracked: TrackedLevels;
  /** sum of the codes before each sample, so that the mean of any stretch is two look-ups */
  readonly sums: Uint32Array;
  /** left out while it is not measured, and where the model does not know the voice */
  readonly witness: SpeechWitness | undefined;
  /** samples of bleed before each sample; left out when there is one track */
  readonly bled: Int32Array | undefined;
  /** the last answers of `soundsOf`: of all sliders only the threshold's changes them, and they cost the most */
  readonly heard: LRUCache<string, Sounds>;
  /** noise too even for a voice: start and end in turn */
  readonly steady: Int32Array;
  readonly extents: Extents;
  /** level samples that the room goes on sounding for after a word, 0 in a dry recording */
  readonly tail: number;
  /** room for the runs of each of four steps, used anew for each threshold */
  readonly scratch: readonly [Runs, Runs, Runs, Runs];
  /** the threshold whose runs the first of them holds */
  held: Settings['threshold'] | undefined;
}

/** Works out for all tracks what no setting changes. */
export function prepareTracks({ levels, speech }: Pick<Material, 'levels' | 'speech'>): ListeningTrack[] {
  const all = levels.map(trackLevels);
  return levels.map((curve, track) => {
    const byLevel = all[track] as TrackedLevels;
    const extents = extentsOf(curve);
    const scratch = [newRuns(), newRuns(), newRuns(), newRuns()] as const;
    const witness = witnessOf({ curve, tracked: byLevel, extents, scratch, held: undefined }, speech?.[track]);
    const tracked = witness ? floorWhereHushed(curve, witness.curve, byLevel) : byLevel;
    const hold = (block: number) => holdBetween(tracked.floor[block] as number, tracked.speech[block] as number, -1);
    const sounding: Sounding = { curve, tracked, extents, scratch, held: undefined };
    const tail = roomTail(curve, runsByLevel(sounding, 'auto'));
    return {
      // With the runs of the automatic threshold, which are asked for next.
      ...sounding,
      tail,
      steady: steadyNoise(curve, extents, tracked, hold),
      sums: runningSums(curve),
      witness,
      bled: levels.length > 1 ? countBled(track, levels, all) : undefined,
      heard: new LRUCache<string, Sounds>({ max: KEPT_ANSWERS }),
    };
  });
}

/** What is needed to find runs by level alone. */
type Sounding = Pick<ListeningTrack, 'curve' | 'extents' | 'tracked' | 'scratch' | 'held'>;

function witnessOf(sound: Sounding, speech: SpeechCurve | undefined): SpeechWitness | undefined {
  if (!speech || speech.codes.length === 0) return undefined;
  const runs = runsByLevel(sound, 'auto');
  const trust = trustIn(speech, (report) => {
    for (let k = 0; k < runs.count; k++) if (runs.strong[k] === 1) report(runs.starts[k] as number, runs.ends[k] as number);
  });
  return trust >= LEAST_TRUST ? new SpeechWitness(speech) : undefined;
}

/** A day of the loudest codes stays under 2^32. */
function runningSums({ codes }: LevelCurve): Uint32Array {
  const sums = new Uint32Array(codes.length + 1);
  let sum = 0;
  for (let k = 0; k < codes.length; k++) {
    sum += codes[k] as number;
    sums[k + 1] = sum;
  }
  return sums;
}

/** The level code at which sound starts. */
export const openAt = ({ floor, speech }: TrackedLevels, block: number, threshold: Settings['threshold']): number =>
  openBetween(floor[block] as number, speech[block] as number, fixedCode(threshold));

/** A threshold set by hand as a level code, or none. */
const fixedCode = (threshold: Settings['threshold']): number => (threshold === 'auto' ? -1 : dbfsToCode(threshold));

const openBetween = (floor: number, speech: number, fixed: number): number =>
  fixed >= 0 ? fixed : floor + Math.max(2 * OPEN_OVER_FLOOR, (speech - floor) * OPEN_SHARE);

/** The level code down to which it goes on. */
const holdBetween = (floor: number, speech: number, fixed: number): number =>
  fixed >= 0
    ? Math.max(fixed - 2 * HOLD_UNDER_FIXED, Math.min(fixed, floor + 2 * HOLD_OVER_FLOOR))
    : floor + Math.max(2 * HOLD_OVER_FLOOR, (speech - floor) * HOLD_SHARE);

/** What one track sounds like under one threshold. */
export interface Sounds {
  readonly runs: Runs;
  /** loud stretches that are no speech, taken out of the runs: start and end in turn */
  readonly noise: readonly number[];
  /** the same for those that are too even for a voice */
  readonly steady: readonly number[];
}

/** Stretches of sound of one track, without noise and without what another microphone hears better. */
export function soundsOf(track: ListeningTrack, { threshold, voice }: Settings): Sounds {
  const { heard } = track;
  const witness = voice === 'join' ? track.witness : undefined;
  const key = `${threshold} ${voice}`;
  const known = heard.get(key);
  if (known) return known;
  const [, joined, uneven, own] = track.scratch;
  const runs = joinFaint(runsByLevel(track, threshold), witness, joined);
  const [noise, steady]: [number[], number[]] = [[], []];
  // Who sets the threshold by hand says what is loud enough.
  const voiced = threshold === 'auto' ? withoutSteady(runs, track, witness, uneven, steady) : runs;
  const sounds = { runs: trimmed(ownSpeech(voiced, track, witness, own, noise)), noise, steady };
  if (threshold === 'auto') takeTailOff(sounds.runs, track.curve, track.tail);
  heard.set(key, sounds);
  return sounds;
}

/** Goes along a million samples in three hours: whole numbers only, and nothing allocated inside. */
function runsByLevel(sound: Sounding, threshold: Settings['threshold']): Runs {
  const { curve, extents, tracked } = sound;
  const [runs] = sound.scratch;
  if (sound.held === threshold) return runs;
  sound.held = threshold;
  const { codes } = curve;
  const { low, high } = extents;
  const { floor, speech } = tracked;
  const fixed = fixedCode(threshold);
  runs.count = 0;
  let start = -1;
  let peak = 0;
  let opened = 0;
  let faint = 0;
  for (let block = 0, at = 0; at < low.length; block++) {
    const exactHold = holdBetween(floor[block] as number, speech[block] as number, fixed);
    const hold = Math.ceil(exactHold);
    opened = Math.ceil(openBetween(floor[block] as number, speech[block] as number, fixed));
    faint = Math.ceil(exactHold + 2 * FAINT_OVER_HOLD);
    for (const until = Math.min(low.length, at + BLOCK / EXTENT); at < until; at++) {
      const top = high[at] as number;
      if (top < hold) {
        if (start >= 0 && peak >= faint) addRun(runs, start, at * EXTENT, peak, peak >= opened);
        start = -1;
      } else if ((low[at] as number) >= hold) {
        if (start < 0) {
          start = at * EXTENT;
          peak = top;
        } else if (top > peak) peak = top;
      } else {
        const end = Math.min(codes.length, (at + 1) * EXTENT);
        for (let k = at * EXTENT; k < end; k++) {
          const code = codes[k] as number;
          if (code >= hold) {
            if (start < 0) {
              start = k;
              peak = code;
            } else if (code > peak) peak = code;
          } else if (start >= 0) {
            if (peak >= faint) addRun(runs, start, k, peak, peak >= opened);
            start = -1;
          }
        }
      }
    }
  }
  const end = codes.length;
  if (start >= 0 && peak >= faint) addRun(runs, start, end, peak, peak >= opened);
  return runs;
}

/**
 * Keeps the strong runs, among them those in which somebody is heard, and those faint ones that stand close enough to be the
 * release or the onset of a word.
 */
function joinFaint({ count, starts, ends, peaks, strong }: Runs, witness: SpeechWitness | undefined, kept: Runs): Runs {
  kept.count = 0;
  const isStrongAt = (k: number) => strong[k] === 1 || (witness?.speaks(starts[k] as number, ends[k] as number) ?? false);
  const near = FAINT_DISTANCE * LEVEL_RATE;
  let lastStrongEnd = Number.NEGATIVE_INFINITY;
  for (let k = 0; k < count; k++) {
    const start = starts[k] as number;
    const end = ends[k] as number;
    const isStrong = isStrongAt(k);
    if (isStrong) lastStrongEnd = end;
    else if (start - lastStrongEnd > near && !(k + 1 < count && (starts[k + 1] as number) - end <= near && isStrongAt(k + 1)))
      continue;
    addRun(kept, start, end, peaks[k] as number, isStrong);
  }
  return kept;
}

/** Longer sound is not taken for a breath or a knock, whatever the settings. */
const SHORT: Seconds = 0.6;

/**
 * Even noise is taken out where it keeps other sound alive for longer than the soft end of a word, and by itself where it is
 * longer than any breath.
 */
const LEAST_STEADY = 0.3 * LEVEL_RATE;
const LEAST_STEADY_ALONE = SHORT * LEVEL_RATE;

/** Takes out noise too even for a voice, and with it what is left beside it that is not loud enough by itself. */
function withoutSteady(
  runs: Runs,
  { curve, tracked, steady }: ListeningTrack,
  witness: SpeechWitness | undefined,
  kept: Runs,
  taken: number[],
): Runs {
  if (steady.length === 0) return runs;
  kept.count = 0;
  const keep = (from: number, to: number) => {
    let peak = 0;
    for (let k = from; k < to; k++) peak = Math.max(peak, curve.codes[k] as number);
    if (to > from && peak >= openAt(tracked, Math.floor(from / BLOCK), 'auto')) addRun(kept, from, to, peak, true);
  };
  for (let k = 0; k < runs.count; k++) {
    const [start, end] = [runs.starts[k] as number, runs.ends[k] as number];
    let from = start;
    within(steady, start, end, (quiet, loud) => {
      const isAlone = quiet - start + end - loud < LEAST_STEADY;
      if (loud - quiet < (isAlone ? LEAST_STEADY_ALONE : LEAST_STEADY) || witness?.speaks(quiet, loud)) return;
      keep(from, quiet);
      taken.push(quiet, loud);
      from = loud;
    });
    if (from === start) addRun(kept, start, end, runs.peaks[k] as number, runs.strong[k] === 1);
    else keep(from, end);
  }
  return kept;
}

/** Takes bleed out, and noise; short sound without speech is marked, since it may be a breath that is to stay. */
function ownSpeech(runs: Runs, track: ListeningTrack, witness: SpeechWitness | undefined, kept: Runs, noise: number[]): Runs {
  const { bled } = track;
  if (!witness && !bled) return runs;
  kept.count = 0;
  for (let k = 0; k < runs.count; k++) {
    const start = runs.starts[k] as number;
    const end = runs.ends[k] as number;
    const peak = runs.peaks[k] as number;
    if (bled && (bled[end] as number) - (bled[start] as number) >= BLED_SHARE * (end - start)) continue;
    if (!witness) addRun(kept, start, end, peak, true);
    else if (end - start <= SHORT * LEVEL_RATE && witness.silent(start, end)) {
      addRun(kept, start, end, peak, true);
      kept.strong[kept.count - 1] = SILENT;
    } else {
      let from = start;
      const silent = witness.noiseIn(start, end);
      for (let j = 0; j < silent.length; j += 2) {
        const quiet = silent[j] as number;
        const loud = silent[j + 1] as number;
        if (quiet > from) addRun(kept, from, quiet, peak, true);
        noise.push(quiet, loud);
        from = loud;
      }
      if (end > from) addRun(kept, from, end, peak, true);
    }
  }
  return kept;
}
