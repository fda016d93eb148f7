import { codeToDbfs, dbfsToCode, LEVEL_HOP, LEVEL_RATE, type LevelCurve } from '../curves/level.ts';
import { firstAfter, type Range, type Seconds, subtract, union } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { type Detector, type Material, type Proposal, proposalId } from './detector.ts';
import type { Settings } from './settings.ts';
import { BLOCK, type TrackedLevels, trackLevels } from './tracking.ts';

/** A listening track with what is tracked along it. */
interface ListeningTrack {
  readonly curve: LevelCurve;
  readonly tracked: TrackedLevels;
}

interface PreparedPauses {
  readonly duration: Seconds;
  readonly tracks: readonly ListeningTrack[];
  /** stretches that words hold against any pause, ordered and disjoint */
  readonly guards: readonly Range[];
}

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
/** A level sample looks one sample to either side, so that sound seems to start and end that much further out. */
const SMEAR = 1;
/** Silences are measured in whole samples: one of the length asked for may come out a sample short. */
const LENGTH_SLACK: Seconds = LEVEL_HOP + 1e-6;
/**
 * Where no word says exactly when speech starts or ends, at least this is left: a plosive begins with a closure that
 * is silent, and the last of a fricative or vowel sinks under the room.
 */
const SOFT_START: Seconds = 0.04;
const SOFT_END: Seconds = 0.02;
/** A lone sound stands at least this far from other sound: a closure before a final plosive is shorter. */
const LONE_DISTANCE: Seconds = 0.2;
/** Breaths last up to this long and stay this much under the voice. */
const BREATH_LENGTH: Seconds = 0.6;
const BREATH_UNDER_SPEECH = 18;
/** A cut moves up to this far, into the pause, to the quietest moment. */
const QUIET_REACH: Seconds = 0.03;
/** What is left of a pause after its air must be worth a seam. */
const LEAST_TAKEN: Seconds = 0.04;
/** An estimated word guards its middle half only. */
const ESTIMATED_GUARD = 0.25;

/**
 * Pauses by level: sound is what rises over a threshold between the tracked floor and the tracked voice, with
 * hysteresis; lone specks and breaths in which no word stands are silence too; a pause is where no listening track
 * has sound and no word is spoken.
 */
export const pauses: Detector<PreparedPauses> = {
  kind: 'pause',

  prepare({ duration, levels, words }: Material): PreparedPauses {
    return {
      duration,
      tracks: levels.map((curve) => ({ curve, tracked: trackLevels(curve) })),
      guards: union(words.map(guardOf)),
    };
  },

  detect({ duration, tracks, guards }, settings): Proposal[] {
    if (tracks.length === 0) return [];
    const sounds = tracks.map((track) => soundsOf(track, settings, guards));
    const sound = sounds.length === 1 ? (sounds[0] as SoundList) : mergeSounds(sounds);
    const proposals: Proposal[] = [];
    for (const found of gapsOf(sound, guards, duration)) {
      if (found.end - found.start < settings.minPause - LENGTH_SLACK) continue;
      const range = takenOf(found, tracks, guards, settings, duration);
      if (range.end - range.start < LEAST_TAKEN) continue;
      proposals.push(proposalOf(found, range, tracks, settings, sound));
    }
    return proposals;
  },
};

/** Lowest and highest automatic threshold along some tracks, in dBFS: where a threshold set by hand may start from. */
export function thresholdRange(levels: readonly LevelCurve[]): [low: number, high: number] {
  let low = 255;
  let high = 0;
  for (const curve of levels) {
    const tracked = trackLevels(curve);
    for (let block = 0; block < tracked.floor.length; block++) {
      const { open } = thresholds(tracked, block, { threshold: 'auto' });
      low = Math.min(low, open);
      high = Math.max(high, open);
    }
  }
  return [codeToDbfs(low), codeToDbfs(high)];
}

function guardOf(word: Word): Range {
  const inset = word.timing === 'estimated' ? (word.end - word.start) * ESTIMATED_GUARD : 0;
  return { start: word.start + inset, end: word.end - inset };
}

function thresholds({ floor, speech }: TrackedLevels, block: number, { threshold }: Pick<Settings, 'threshold'>) {
  const low = floor[block] as number;
  const contrast = (speech[block] as number) - low;
  if (threshold === 'auto')
    return {
      open: low + Math.max(2 * OPEN_OVER_FLOOR, contrast * OPEN_SHARE),
      hold: low + Math.max(2 * HOLD_OVER_FLOOR, contrast * HOLD_SHARE),
    };
  const open = dbfsToCode(threshold);
  return { open, hold: Math.max(open - 2 * HOLD_UNDER_FIXED, Math.min(open, low + 2 * HOLD_OVER_FLOOR)) };
}

/** Stretches of sound in level samples, by columns: live tuning goes through a million samples at each step. */
interface SoundList {
  readonly starts: number[];
  readonly ends: number[];
  /** lone sounds taken for silence, as start and end in turn */
  readonly ignored: number[];
}

function soundsOf({ curve, tracked }: ListeningTrack, settings: Settings, guards: readonly Range[]): SoundList {
  const { codes } = curve;
  const runs: Runs = { starts: [], ends: [], peaks: [], strong: [] };
  let start = -1;
  let peak = 0;
  let reached = false;
  let faint = 0;
  for (let block = 0, k = 0; k < codes.length; block++) {
    const { open, hold } = thresholds(tracked, block, settings);
    faint = hold + 2 * FAINT_OVER_HOLD;
    for (const until = Math.min(codes.length, k + BLOCK); k < until; k++) {
      const code = codes[k] as number;
      if (code >= hold) {
        if (start < 0) {
          start = k;
          peak = 0;
        }
        if (code > peak) peak = code;
        if (code >= open) reached = true;
      } else if (start >= 0) {
        if (peak >= faint) addRun(runs, start, k, peak, reached);
        start = -1;
        reached = false;
      }
    }
  }
  if (start >= 0 && peak >= faint) addRun(runs, start, codes.length, peak, reached);
  const kept = joinFaint(runs);
  return dropLone(kept, kept.peaks, tracked, settings, guards, codes.length);
}

/** Runs of samples over the holding threshold; strong ones reached the opening one. */
interface Runs {
  readonly starts: number[];
  readonly ends: number[];
  readonly peaks: number[];
  readonly strong: boolean[];
}

function addRun(runs: Runs, start: number, end: number, peak: number, strong: boolean): void {
  runs.starts.push(start);
  runs.ends.push(end);
  runs.peaks.push(peak);
  runs.strong.push(strong);
}

/** Keeps the strong runs, and those faint ones that stand close enough to be the release or the onset of a word. */
function joinFaint({ starts, ends, peaks, strong }: Runs): Runs & SoundList {
  const kept = { starts: [], ends: [], peaks: [], strong: [], ignored: [] } as Runs & SoundList;
  const near = FAINT_DISTANCE * LEVEL_RATE;
  let lastStrongEnd = Number.NEGATIVE_INFINITY;
  for (let k = 0; k < starts.length; k++) {
    const start = starts[k] as number;
    const end = ends[k] as number;
    if (strong[k]) lastStrongEnd = end;
    else if (start - lastStrongEnd > near && !(strong[k + 1] && (starts[k + 1] as number) - end <= near)) continue;
    addRun(kept, start, end, peaks[k] as number, strong[k] as boolean);
  }
  return kept;
}

/** Takes out specks and breaths: short, standing alone, and with no word in them. */
function dropLone(
  { starts, ends }: SoundList,
  peaks: readonly number[],
  { speech }: TrackedLevels,
  settings: Settings,
  guards: readonly Range[],
  length: number,
): SoundList {
  const kept: SoundList = { starts: [], ends: [], ignored: [] };
  const apart = LONE_DISTANCE * LEVEL_RATE;
  let guard = 0;
  for (let k = 0; k < starts.length; k++) {
    const start = starts[k] as number;
    const end = ends[k] as number;
    const seconds = (end - start) * LEVEL_HOP;
    const voice = speech[Math.floor(start / BLOCK)] as number;
    const small =
      seconds <= settings.speck || (seconds <= BREATH_LENGTH && (peaks[k] as number) < voice - 2 * BREATH_UNDER_SPEECH);
    const alone =
      start - (k > 0 ? (ends[k - 1] as number) : -length) >= apart &&
      (k + 1 < starts.length ? (starts[k + 1] as number) : 2 * length) - end >= apart;
    let lone = small && alone;
    if (lone) {
      while (guard < guards.length && (guards[guard] as Range).end <= start * LEVEL_HOP) guard++;
      lone = !(guard < guards.length && (guards[guard] as Range).start < end * LEVEL_HOP);
    }
    if (lone) kept.ignored.push(start, end);
    else {
      kept.starts.push(start);
      kept.ends.push(end);
    }
  }
  return kept;
}

function mergeSounds(lists: readonly SoundList[]): SoundList {
  const order = lists
    .flatMap(({ starts, ends }) => starts.map((start, k) => [start, ends[k] as number] as const))
    .sort((a, b) => a[0] - b[0]);
  const merged: SoundList = { starts: [], ends: [], ignored: lists.flatMap((list) => list.ignored) };
  for (const [start, end] of order) {
    const last = merged.ends.length - 1;
    if (last >= 0 && start <= (merged.ends[last] as number)) merged.ends[last] = Math.max(merged.ends[last] as number, end);
    else {
      merged.starts.push(start);
      merged.ends.push(end);
    }
  }
  return merged;
}

/** Where there is neither sound nor a word. */
function gapsOf({ starts, ends }: SoundList, guards: readonly Range[], duration: Seconds): Range[] {
  const silences: Range[] = [];
  let at = 0;
  for (let k = 0; k < starts.length; k++) {
    const start = ((starts[k] as number) + SMEAR) * LEVEL_HOP;
    if (start > at) silences.push({ start: at, end: Math.min(start, duration) });
    at = ((ends[k] as number) - SMEAR) * LEVEL_HOP;
  }
  if (at < duration) silences.push({ start: at, end: duration });
  return guards.length > 0 ? subtract(silences, guards) : silences;
}

/** What is taken of a found pause: inset by the air, then further in to the quietest moment near. */
function takenOf(
  found: Range,
  tracks: readonly ListeningTrack[],
  guards: readonly Range[],
  settings: Settings,
  duration: Seconds,
): Range {
  const { before, after } = wordsBeside(found, guards);
  const airAfter = Math.max(settings.airAfter, before ? 0 : SOFT_END);
  const airBefore = Math.max(settings.airBefore, after ? 0 : SOFT_START);
  // The recording's own ends are no words: no air is owed to them.
  const start = found.start <= 0 ? 0 : found.start + airAfter;
  const end = found.end >= duration ? duration : found.end - airBefore;
  const reach = Math.min(QUIET_REACH, Math.max(0, (end - start) / 4));
  return {
    start: start === 0 ? 0 : quietest(tracks, start, start + reach, 1),
    end: end === duration ? duration : quietest(tracks, end, end - reach, -1),
  };
}

/** Whether a word ends right where the silence starts, and whether one starts right where it ends. */
function wordsBeside(found: Range, guards: readonly Range[]): { before: boolean; after: boolean } {
  const next = firstAfter(guards.length, (k) => (guards[k] as Range).end, found.start + 1e-9);
  const near = (a: Seconds | undefined, b: Seconds) => a !== undefined && Math.abs(a - b) <= SOFT_START;
  return { before: near(guards[next - 1]?.end, found.start), after: near(guards[next]?.start, found.end) };
}

/** The quietest moment from one point on towards another; the nearest of several equally quiet ones. */
function quietest(tracks: readonly ListeningTrack[], from: Seconds, to: Seconds, direction: 1 | -1): Seconds {
  let best = from;
  let bestCode = Number.POSITIVE_INFINITY;
  for (let at = from; direction * (to - at) >= -1e-9; at += direction * LEVEL_HOP) {
    let code = 0;
    for (const { curve } of tracks) code = Math.max(code, curve.codes[Math.round(at * LEVEL_RATE)] ?? 0);
    // Two decibels: less is the noise of the noise, and not worth moving for.
    if (code < bestCode - 4) {
      bestCode = code;
      best = at;
    }
  }
  return Math.round(best * 1000) / 1000;
}

function proposalOf(
  found: Range,
  range: Range,
  tracks: readonly ListeningTrack[],
  settings: Settings,
  sound: SoundList,
): Proposal {
  const from = Math.round(found.start * LEVEL_RATE);
  const to = Math.max(from + 1, Math.round(found.end * LEVEL_RATE));
  let level = 0;
  let margin = Number.POSITIVE_INFINITY;
  for (const { curve, tracked } of tracks) {
    let sum = 0;
    for (let k = from; k < to; k++) sum += curve.codes[k] ?? 0;
    const mean = sum / (to - from);
    const { open } = thresholds(tracked, Math.min(tracked.floor.length - 1, Math.floor(from / BLOCK)), settings);
    level = Math.max(level, mean);
    margin = Math.min(margin, (open - mean) / 2);
  }
  let ignored = 0;
  for (let k = 0; k < sound.ignored.length; k += 2)
    if ((sound.ignored[k] as number) >= from && (sound.ignored[k + 1] as number) <= to) ignored++;
  // Five decibels under the threshold all along is beyond doubt; a swallowed sound always deserves an ear.
  const confidence = Math.max(0.05, Math.min(0.99, 0.5 + margin / 10)) * (ignored > 0 ? 0.5 : 1);
  return {
    id: proposalId('pause', found),
    kind: 'pause',
    ...range,
    found,
    treatment: settings.treatment,
    confidence: Math.round(confidence * 100) / 100,
    evidence: {
      levelDbfs: Math.round(codeToDbfs(level) * 10) / 10,
      underThresholdDb: Math.round(margin * 10) / 10,
      ignoredSounds: ignored,
    },
  };
}
