import { codeToDbfs, dbfsToCode, LEVEL_HOP, LEVEL_RATE, type LevelCurve } from '../curves/level.ts';
import { firstAfter, type Range, type Seconds, subtractOrdered, union } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { type Detector, type Material, type Proposal, proposalId } from './detector.ts';
import type { Settings } from './settings.ts';
import { BLOCK, type TrackedLevels, trackLevels } from './tracking.ts';

/** A listening track with what is tracked along it. */
interface ListeningTrack {
  readonly curve: LevelCurve;
  readonly tracked: TrackedLevels;
  /** sum of the codes before each sample, so that the mean of any stretch is two look-ups */
  readonly sums: Float64Array;
  /** the last answer of `soundsOf`: of all sliders only the threshold's changes it, and it costs the most */
  readonly heard: { threshold?: Settings['threshold']; runs?: Runs };
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
const SOFT_END: Seconds = 0.025;
/** Three samples of steady noise together hardly ever come this far over its floor. */
const LINGER_OVER_FLOOR = 2.2;
const LINGER_SAMPLES = 6;
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
      tracks: levels.map((curve) => ({ curve, tracked: trackLevels(curve), sums: runningSums(curve), heard: {} })),
      guards: union(words.map(guardOf)),
    };
  },

  detect({ duration, tracks, guards }, settings): Proposal[] {
    if (tracks.length === 0) return [];
    const sounds = tracks.map((track) => dropLone(track, soundsOf(track, settings), settings, guards));
    const sound = sounds.length === 1 ? (sounds[0] as SoundList) : mergeSounds(sounds);
    const proposals: Proposal[] = [];
    for (const found of gapsOf(sound, guards, duration, settings.minPause - LENGTH_SLACK)) {
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
      const open = openAt(tracked, block, 'auto');
      low = Math.min(low, open);
      high = Math.max(high, open);
    }
  }
  return [codeToDbfs(low), codeToDbfs(high)];
}

function runningSums({ codes }: LevelCurve): Float64Array {
  const sums = new Float64Array(codes.length + 1);
  for (let k = 0; k < codes.length; k++) sums[k + 1] = (sums[k] as number) + (codes[k] as number);
  return sums;
}

function guardOf(word: Word): Range {
  const inset = word.timing === 'estimated' ? (word.end - word.start) * ESTIMATED_GUARD : 0;
  return { start: word.start + inset, end: word.end - inset };
}

/** The level code at which sound starts. */
function openAt({ floor, speech }: TrackedLevels, block: number, threshold: Settings['threshold']): number {
  const low = floor[block] as number;
  if (threshold !== 'auto') return dbfsToCode(threshold);
  return low + Math.max(2 * OPEN_OVER_FLOOR, ((speech[block] as number) - low) * OPEN_SHARE);
}

/** The level code down to which it goes on. */
function holdAt({ floor, speech }: TrackedLevels, block: number, threshold: Settings['threshold']): number {
  const low = floor[block] as number;
  if (threshold === 'auto') return low + Math.max(2 * HOLD_OVER_FLOOR, ((speech[block] as number) - low) * HOLD_SHARE);
  const open = dbfsToCode(threshold);
  return Math.max(open - 2 * HOLD_UNDER_FIXED, Math.min(open, low + 2 * HOLD_OVER_FLOOR));
}

/** Stretches of sound in level samples, by columns: live tuning goes through a million samples at each step. */
interface SoundList {
  count: number;
  readonly starts: Int32Array;
  readonly ends: Int32Array;
  /** lone sounds taken for silence, as start and end in turn */
  readonly ignored: number[];
}

function soundsOf(track: ListeningTrack, settings: Settings): Runs {
  const { heard, curve, tracked } = track;
  if (!heard.runs || heard.threshold !== settings.threshold) {
    heard.runs = joinFaint(runsOf(curve, tracked, settings.threshold));
    heard.threshold = settings.threshold;
  }
  return heard.runs;
}

/** Goes through every sample, a million of them in three hours: whole numbers only, and nothing allocated inside. */
function runsOf({ codes }: LevelCurve, tracked: TrackedLevels, threshold: Settings['threshold']): Runs {
  const runs = newRuns(codes.length >> 1);
  let start = -1;
  let peak = 0;
  let opened = 0;
  let faint = 0;
  for (let block = 0, k = 0; k < codes.length; block++) {
    const exactHold = holdAt(tracked, block, threshold);
    const hold = Math.ceil(exactHold);
    const until = Math.min(codes.length, k + BLOCK);
    opened = Math.ceil(openAt(tracked, block, threshold));
    faint = Math.ceil(exactHold + 2 * FAINT_OVER_HOLD);
    while (k < until) {
      if (start < 0) {
        while (k < until && (codes[k] as number) < hold) k++;
        if (k === until) break;
        start = k;
        peak = 0;
      }
      while (k < until && (codes[k] as number) >= hold) {
        if ((codes[k] as number) > peak) peak = codes[k] as number;
        k++;
      }
      if (k === until) break;
      if (peak >= faint) addRun(runs, start, k, peak, peak >= opened);
      start = -1;
    }
  }
  if (start >= 0 && peak >= faint) addRun(runs, start, codes.length, peak, peak >= opened);
  return runs;
}

/** Runs of samples over the holding threshold, by columns; strong ones (1) reached the opening one. */
interface Runs {
  count: number;
  readonly starts: Int32Array;
  readonly ends: Int32Array;
  readonly peaks: Uint8Array;
  readonly strong: Uint8Array;
}

function newRuns(most: number): Runs {
  const length = most + 1;
  return {
    count: 0,
    starts: new Int32Array(length),
    ends: new Int32Array(length),
    peaks: new Uint8Array(length),
    strong: new Uint8Array(length),
  };
}

function addRun(runs: Runs, start: number, end: number, peak: number, strong: boolean): void {
  const at = runs.count++;
  runs.starts[at] = start;
  runs.ends[at] = end;
  runs.peaks[at] = peak;
  runs.strong[at] = strong ? 1 : 0;
}

/** Keeps the strong runs, and those faint ones that stand close enough to be the release or the onset of a word. */
function joinFaint({ count, starts, ends, peaks, strong }: Runs): Runs {
  const kept = newRuns(count);
  const near = FAINT_DISTANCE * LEVEL_RATE;
  let lastStrongEnd = Number.NEGATIVE_INFINITY;
  for (let k = 0; k < count; k++) {
    const start = starts[k] as number;
    const end = ends[k] as number;
    const isStrong = strong[k] === 1;
    if (isStrong) lastStrongEnd = end;
    else if (start - lastStrongEnd > near && !(k + 1 < count && strong[k + 1] === 1 && (starts[k + 1] as number) - end <= near))
      continue;
    addRun(kept, start, end, peaks[k] as number, isStrong);
  }
  return kept;
}

/** Takes out specks and breaths: short, standing alone, and with no word in them. */
function dropLone(
  { curve, tracked: { speech } }: ListeningTrack,
  { count, starts, ends, peaks }: Runs,
  settings: Settings,
  guards: readonly Range[],
): SoundList {
  const { length } = curve.codes;
  const kept: SoundList = { count: 0, starts: new Int32Array(count), ends: new Int32Array(count), ignored: [] };
  const apart = LONE_DISTANCE * LEVEL_RATE;
  let guard = 0;
  for (let k = 0; k < count; k++) {
    const start = starts[k] as number;
    const end = ends[k] as number;
    const seconds = (end - start) * LEVEL_HOP;
    const voice = speech[Math.floor(start / BLOCK)] as number;
    const small =
      seconds <= settings.speck || (seconds <= BREATH_LENGTH && (peaks[k] as number) < voice - 2 * BREATH_UNDER_SPEECH);
    let lone =
      small &&
      start - (k > 0 ? (ends[k - 1] as number) : -length) >= apart &&
      (k + 1 < count ? (starts[k + 1] as number) : 2 * length) - end >= apart;
    if (lone) {
      while (guard < guards.length && (guards[guard] as Range).end <= start * LEVEL_HOP) guard++;
      lone = !(guard < guards.length && (guards[guard] as Range).start < end * LEVEL_HOP);
    }
    if (lone) kept.ignored.push(start, end);
    else {
      kept.starts[kept.count] = start;
      kept.ends[kept.count++] = end;
    }
  }
  return kept;
}

function mergeSounds(lists: readonly SoundList[]): SoundList {
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

/** Where there is neither sound nor a word for at least `shortest` seconds. */
function gapsOf({ count, starts, ends }: SoundList, guards: readonly Range[], duration: Seconds, shortest: Seconds): Range[] {
  const silences: Range[] = [];
  const add = (start: Seconds, end: Seconds) => {
    // Most gaps are between syllables: leave them out before words are looked at, not after.
    if (end - start >= shortest) silences.push({ start, end });
  };
  let at = 0;
  for (let k = 0; k < count; k++) {
    add(at, Math.min(((starts[k] as number) + SMEAR) * LEVEL_HOP, duration));
    at = ((ends[k] as number) - SMEAR) * LEVEL_HOP;
  }
  add(at, duration);
  if (guards.length === 0) return silences;
  return subtractOrdered(silences, guards).filter(({ start, end }) => end - start >= shortest);
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
  const airAfter = Math.max(settings.airAfter, before ? 0 : Math.max(SOFT_END, lingering(tracks, found.start, 1)));
  const airBefore = Math.max(settings.airBefore, after ? 0 : Math.max(SOFT_START, lingering(tracks, found.end, -1)));
  // The recording's own ends are no words: no air is owed to them.
  const start = found.start <= 0 ? 0 : found.start + airAfter;
  const end = found.end >= duration ? duration : found.end - airBefore;
  const reach = Math.min(QUIET_REACH, Math.max(0, (end - start) / 4));
  return {
    start: start === 0 ? 0 : quietest(tracks, start, start + reach, 1),
    end: end === duration ? duration : quietest(tracks, end, end - reach, -1),
  };
}

/** How long sound lingers just over the room from an edge on into a pause: a weak release, the last of a vowel. */
function lingering(tracks: readonly ListeningTrack[], edge: Seconds, direction: 1 | -1): Seconds {
  const first = Math.round(edge * LEVEL_RATE) + (direction < 0 ? -1 : 0);
  let longest = 0;
  for (const { curve, tracked } of tracks) {
    const block = Math.min(tracked.floor.length - 1, Math.max(0, Math.floor(first / BLOCK)));
    const room = (tracked.floor[block] as number) + 2 * LINGER_OVER_FLOOR;
    for (let k = longest; k < LINGER_SAMPLES; k++) {
      let sum = 0;
      for (let j = 0; j < 3; j++) sum += curve.codes[first + direction * (k + j)] ?? 0;
      if (sum > 3 * room) longest = k + 1;
    }
  }
  return longest * LEVEL_HOP;
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
  for (const { curve, tracked, sums } of tracks) {
    const last = curve.codes.length;
    const mean = ((sums[Math.min(to, last)] as number) - (sums[Math.min(from, last)] as number)) / (to - from);
    const open = openAt(tracked, Math.min(tracked.floor.length - 1, Math.floor(from / BLOCK)), settings.threshold);
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
    start: range.start,
    end: range.end,
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
