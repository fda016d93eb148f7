import { LRUCache } from 'lru-cache';
import { EXACT_TIMES, type TimingFit, timingFit } from '../../align/timing.ts';
import { codeToDbfs, LEVEL_HOP, LEVEL_RATE } from '../../curves/level.ts';
import type { MotionCurve } from '../../curves/motion.ts';
import { firstAfter, type Range, type Seconds, subtractOrdered } from '../../time/range.ts';
import { once } from '../../transcript/memoize.ts';
import { endsSentence, isSaid, type Word } from '../../transcript/word.ts';
import type { Calibration } from '../calibration/calibration.ts';
import { FITTED } from '../calibration/fitted.ts';
import { probabilityOf } from '../calibration/logistic.ts';
import { type Detector, type Material, type Proposal, proposalId } from '../detector.ts';
import { DEFAULT_SETTINGS, listeningTracks, type Settings } from '../settings.ts';
import { type Treated, treatedRange, treatmentOf, withAmount } from '../treatment.ts';
import { guardsOf, strayAmong, type WordGuards } from '../words/wordTiming.ts';
import { IGNORED, mergeSounds, type SoundList, speechOf } from './isolatedSounds.ts';
import { BLOCK } from './levelTracking.ts';
import { type ListeningTrack, openAt, prepareTracks, soundsOf } from './sounds.ts';
import type { SpeechWitness } from './speechProbability.ts';
import { stillAndMoving } from './stillness.ts';

export interface PreparedPauses {
  readonly duration: Seconds;
  readonly tracks: readonly ListeningTrack[];
  /** the same by level alone, worked out when somebody asks for that */
  readonly tracksByLevel: () => readonly ListeningTrack[];
  /** stretches that words hold against any pause, ordered and disjoint */
  readonly guards: WordGuards;
  readonly timing: TimingFit;
  readonly calibration: Calibration;
  /** silences found by sound alone, from a tenth of a second on; worked out when first asked for */
  readonly bySound: () => readonly Range[];
  /** places of words that stand elsewhere than they are said, and hold nothing */
  readonly stray: ReadonlySet<number>;
  /** where sentences end, and where somebody has spoken and another is next */
  readonly ends: WordEnds;
  readonly motion: MotionCurve | undefined;
  /** the last answers, by the settings that they depend on */
  readonly answers: LRUCache<string, Speech>;
}

/** What counts as speech under some settings, and what was made of it: most sliders move on top of that. */
interface Speech {
  readonly sound: SoundList;
  /** silences of at least `shortest` seconds, found when first asked for as short ones */
  gaps: { readonly shortest: Seconds; readonly silences: readonly Range[] } | undefined;
  isAskedAgain: boolean;
  /** pauses made under the same settings before, by where they start */
  made: { readonly key: string; readonly ends: WordEnds; readonly pauses: Map<Seconds, MadePause> } | undefined;
}

/** Moments at which words end after which something else begins, in order. */
interface WordEnds {
  readonly sentences: Float64Array;
  readonly turns: Float64Array;
}

interface MadePause {
  readonly end: Seconds;
  readonly proposals: readonly Proposal[];
}

/** Marked ranges may ask under settings of their own at each step of a slider. */
const KEPT_ANSWERS = 4;

/** A level sample looks one sample to either side, so that sound seems to start and end that much further out. */
const SMEAR = 1;
/** Silences are measured in whole samples: one of the length asked for may come out a sample short. */
const LENGTH_SLACK: Seconds = LEVEL_HOP + 1e-6;
/**
 * Where no word says exactly when speech starts or ends, at least this is left: a plosive begins with a closure that
 * is silent, and the last of a fricative or vowel sinks under the room.
 */
const SOFT_START: Seconds = 0.05;
const SOFT_END: Seconds = 0.03;
/** Three samples of steady noise together hardly ever come this far over its floor. */
const LINGER_OVER_FLOOR = 2.2;
const LINGER_SAMPLES = 6;
/** A cut moves up to this far, into the pause, to the quietest moment. */
const QUIET_REACH: Seconds = 0.03;
/** What is left of a pause after its air must be worth a seam. */
const LEAST_TAKEN: Seconds = 0.04;
/** Silences from which on a word of uncertain time holds no more than the sound under it. */
const GUARDED_SILENCE: Seconds = 0.1;
const NO_GUARDS: WordGuards = { all: [], exact: [] };
/** Sound between a word whose time is exact and a silence is left-over up to this; up to the other if nobody is heard. */
const ECHO: Seconds = 0.12;
const LONG_ECHO: Seconds = 0.5;
const LEAST_CORE: Seconds = 0.1;
/** Silences that are clear enough to compare the times of words with. */
const CLEAR_SILENCE: Seconds = 0.2;
/** A sentence ended here when its last word ends this near to where the silence starts. */
const SENTENCE_REACH: Seconds = 0.3;
/** A swallowed sound deserves an ear; less so a breath, and least what the speech measure agrees about. */
const DOUBT_OF_SPECK = 0.5;
const DOUBT_OF_BREATH = 0.65;
const DOUBT_AGREED = 0.8;
/** From this share of bleed on, the level of a pause says nothing. */
const BLEEDS = 0.1;
/** Further under the threshold than this, in decibels, nothing is surer. */
const MOST_MARGIN = 8;
/**
 * Long noise may be what the recording is about, such as a clock that strikes: it clips no word, and still nobody but a person can
 * say that it should go.
 */
const LONG_NOISE = 1 * LEVEL_RATE;
const MOST_OF_LONG_NOISE = 0.6;

/**
 * Pauses by level: sound is what rises over a threshold between the tracked floor and the tracked voice, with
 * hysteresis; lone specks and breaths in which no word stands are silence too, and so is noise in which the speech
 * measure hears nobody; a pause is where no listening track has speech and no word is spoken.
 */
export const pauses: Detector<PreparedPauses> = {
  kind: 'pause',
  reads: [
    'minPause',
    'airBefore',
    'airAfter',
    'airSentence',
    'airTurn',
    'threshold',
    'voice',
    'listen',
    'speck',
    'breaths',
    'treatment',
    'shortenTo',
    'hurryRate',
    'hurryFrom',
    'moving',
    'movingOver',
  ],
  speed: 'at once',

  prepare(material: Material): PreparedPauses {
    const { duration, motion } = material;
    const bySound = {
      duration,
      tracks: prepareTracks(material),
      tracksByLevel: once(() => prepareTracks({ levels: material.levels })),
      guards: NO_GUARDS,
      timing: EXACT_TIMES,
      calibration: material.calibration ?? FITTED,
      bySound: () => [],
      stray: new Set<number>(),
      ends: endsOf([]),
      motion,
      answers: new LRUCache<string, Speech>({ max: KEPT_ANSWERS }),
    };
    const silences = once(() => silencesOf(bySound, DEFAULT_SETTINGS, GUARDED_SILENCE));
    if (material.words.length === 0) return { ...bySound, bySound: silences };
    const stray = strayAmong(material.words, silences(), duration);
    const words = material.words.filter(({ text }, k) => isSaid(text) && !stray.has(k));
    const ends = endsOf(words);
    const timing = timingFit(silencesOf(bySound, DEFAULT_SETTINGS, CLEAR_SILENCE), words, duration);
    const guards = guardsOf(words, timing, silences(), (word) => heardBy(bySound.tracks, word));
    return {
      ...bySound,
      timing,
      guards,
      stray,
      ends,
      bySound: silences,
      answers: new LRUCache<string, Speech>({ max: KEPT_ANSWERS }),
    };
  },

  // Corrections change no time: only where sentences and turns end, and most not even that.
  reword(prepared, { words }) {
    const ends = endsOf(wordsSaid(words));
    return areSame(ends, prepared.ends) ? prepared : { ...prepared, ends };
  },

  detect(prepared, settings): Proposal[] {
    if (prepared.tracks.length === 0) return [];
    const tracks = listeningOf(prepared, settings);
    const speech = speechIn(prepared, tracks, settings);
    const ignored = new IgnoredSounds(speech.sound.ignored);
    const made = madeBefore(speech, prepared, settings);
    const proposals: Proposal[] = [];
    for (const found of foundIn(speech, tracks, prepared, settings)) {
      let pause = made.get(found.start);
      if (pause?.end !== found.end) {
        pause = { end: found.end, proposals: proposalsOf(found, tracks, prepared, settings, ignored) };
        made.set(found.start, pause);
      }
      for (const proposal of pause.proposals) proposals.push(proposal);
    }
    return proposals;
  },
};

function speechIn(prepared: PreparedPauses, tracks: readonly ListeningTrack[], settings: Settings): Speech {
  const { answers, guards } = prepared;
  const { listen, threshold, voice, speck, breaths } = settings;
  const key = [listen, threshold, voice, speck, breaths].join(' ');
  const known = answers.get(key);
  if (known) return known;
  const sound = mergeSounds(tracks.map((track) => speechOf(track, soundsOf(track, settings), settings, guards.all)));
  const speech = { sound, gaps: undefined, isAskedAgain: false, made: undefined };
  answers.set(key, speech);
  return speech;
}

/** What was made of the same speech, as far as it holds under these settings. */
function madeBefore(speech: Speech, { ends }: PreparedPauses, settings: Settings): Map<Seconds, MadePause> {
  const { airBefore, airAfter, airSentence, airTurn, treatment, shortenTo, hurryRate, hurryFrom, moving, movingOver } = settings;
  const key = [airBefore, airAfter, airSentence, airTurn, treatment, shortenTo, hurryRate, hurryFrom, moving, movingOver]
    // Which parts of a split pause are long enough is asked for a moving picture only.
    .concat(moving === 'same' ? [] : settings.minPause)
    .join(' ');
  if (speech.made?.key === key && areSame(speech.made.ends, ends)) return speech.made.pauses;
  const pauses = new Map<Seconds, MadePause>();
  // Asked once only, as what-if curves do at sixty thresholds, nothing is worth keeping: collecting it would take as long again.
  if (speech.isAskedAgain) speech.made = { key, ends, pauses };
  speech.isAskedAgain = true;
  return pauses;
}

function proposalsOf(
  found: Range,
  tracks: readonly ListeningTrack[],
  prepared: PreparedPauses,
  settings: Settings,
  ignored: IgnoredSounds,
): Proposal[] {
  const taken = takenOf(found, tracks, prepared, settings);
  const proposals: Proposal[] = [];
  for (const part of partsOf(found, taken, prepared, settings)) {
    const range = treatedRange(part.found, part.taken, part.treated);
    if (range.end - range.start >= LEAST_TAKEN) proposals.push(proposalOf(part, range, tracks, prepared, settings, ignored));
  }
  return proposals;
}

const sentenceEndsOf = (words: readonly Word[]): Float64Array =>
  Float64Array.from(words.filter((word) => endsSentence(word.text)).map((word) => word.end)).sort();

/** Ends of what one speaker says before another one's words. */
function turnEndsOf(words: readonly Word[]): Float64Array {
  const ends: number[] = [];
  let last: Word | undefined;
  for (const word of words) {
    if (last && last.speaker !== word.speaker) ends.push(last.end);
    last = word;
  }
  return Float64Array.from(ends).sort();
}

/** Whether the speech measure hears somebody; undefined where it hears nobody, and one of the tracks is not its to judge. */
function heardBy(tracks: PreparedPauses['tracks'], range: Range): boolean | undefined {
  if (tracks.some(({ witness }) => witness?.hears(range))) return true;
  return tracks.every(({ witness }) => witness) ? false : undefined;
}

/** Words without notes of what else is heard, which hold no silence. */
const wordsSaid = (words: readonly Word[]): readonly Word[] => {
  const said = ({ text }: Word) => isSaid(text);
  return words.every(said) ? words : words.filter(said);
};

const endsOf = (words: readonly Word[]): WordEnds => ({ sentences: sentenceEndsOf(words), turns: turnEndsOf(words) });

const areEqual = (a: Float64Array, b: Float64Array): boolean => a.length === b.length && a.every((value, k) => value === b[k]);
const areSame = (a: WordEnds, b: WordEnds): boolean =>
  a === b || (areEqual(a.sentences, b.sentences) && areEqual(a.turns, b.turns));

/** Every silence of a least length, before any air and however it is treated: how a speaker pauses. */
export function silencesOf(prepared: PreparedPauses, settings: Settings, shortest: Seconds): Range[] {
  const tracks = listeningOf(prepared, settings);
  if (tracks.length === 0) return [];
  return [...gapsIn(speechIn(prepared, tracks, settings), prepared, shortest)];
}

/** Whether a sentence ends where a silence starts. */
export const followsSentence = ({ ends }: PreparedPauses, start: Seconds): boolean => isEndAt(ends.sentences, start);

function isEndAt(ends: Float64Array, start: Seconds): boolean {
  const next = firstAfter(ends.length, (k) => ends[k] as number, start + SENTENCE_REACH / 2);
  return next > 0 && start - (ends[next - 1] as number) <= SENTENCE_REACH;
}

function listeningOf(prepared: PreparedPauses, { listen, voice }: Settings): ListeningTrack[] {
  const tracks = voice === 'ignore' ? prepared.tracksByLevel() : prepared.tracks;
  return listeningTracks(listen, tracks.length).map((track) => tracks[track] as ListeningTrack);
}

/** Lowest and highest automatic threshold along some tracks, in dBFS: where a threshold set by hand may start from. */
export function thresholdRange({ tracks }: PreparedPauses): [low: number, high: number] {
  let low = 255;
  let high = 0;
  for (const { tracked } of tracks) {
    for (let block = 0; block < tracked.floor.length; block++) {
      const open = openAt(tracked, block, 'auto');
      low = Math.min(low, open);
      high = Math.max(high, open);
    }
  }
  return [codeToDbfs(low), codeToDbfs(high)];
}

/** Where there is neither sound nor a word for at least `shortest` seconds. */
function gapsIn(speech: Speech, { guards, duration }: PreparedPauses, shortest: Seconds): readonly Range[] {
  if (!speech.gaps || speech.gaps.shortest > shortest)
    speech.gaps = { shortest, silences: gapsOf(speech.sound, guards.all, duration, shortest) };
  const { silences } = speech.gaps;
  return speech.gaps.shortest === shortest ? silences : silences.filter(({ start, end }) => end - start >= shortest);
}

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

/** A pause, or a part of one that gets a treatment of its own. */
interface PausePart {
  readonly found: Range;
  readonly taken: Range;
  readonly treated: Treated;
}

/** Splits a pause where the picture starts and stops moving, if that makes a difference. */
function partsOf(found: Range, taken: Range, { motion }: PreparedPauses, settings: Settings): PausePart[] {
  const treated = treatmentOf(found.end - found.start, settings);
  if (settings.moving === 'same' || !motion || taken.end <= taken.start) return [{ found, taken, treated }];
  const parts = stillAndMoving(motion, taken, settings.movingOver / 100);
  const split = parts.map((part, k): PausePart & { moving: boolean } => ({
    moving: part.moving,
    taken: part,
    // What was found is shared out: its air belongs to the first and the last part.
    found: { start: k === 0 ? found.start : part.start, end: k + 1 === parts.length ? found.end : part.end },
    treated: part.moving ? withAmount('hurry', settings) : treated,
  }));
  return split.filter(({ moving, found: { start, end } }) =>
    moving ? settings.moving === 'hurry' : parts.length === 1 || end - start >= settings.minPause,
  );
}

/**
 * Silences of the length asked for. Where the times of words are exact, a silence reaches to the words beside it over
 * what little sound is left between: an echo or a chair, not a word.
 */
function foundIn(
  speech: Speech,
  tracks: readonly ListeningTrack[],
  prepared: PreparedPauses,
  settings: Settings,
): readonly Range[] {
  const guards = prepared.guards.exact;
  const shortest = settings.minPause - LENGTH_SLACK;
  if (guards.length === 0) return gapsIn(speech, prepared, shortest);
  const witnesses = settings.voice === 'join' ? tracks.map(({ witness }) => witness) : [];
  const reached: Range[] = [];
  for (const { start, end } of gapsIn(speech, prepared, Math.max(LEAST_CORE, shortest - 2 * ECHO))) {
    const next = firstAfter(guards.length, (k) => (guards[k] as Range).end, start + 1e-6);
    const before = guards[next - 1]?.end;
    const after = guards[next]?.start;
    const from = before !== undefined && isLeftOver(witnesses, before, start) ? before : start;
    const to = after !== undefined && after >= end && isLeftOver(witnesses, end, after) ? after : end;
    // Two silences with a chair between them have become one.
    const last = reached.at(-1);
    if (last && from < last.end) reached[reached.length - 1] = { start: last.start, end: to };
    else reached.push({ start: from, end: to });
  }
  return reached.filter(({ start, end }) => end - start >= shortest);
}

/** Whether what sounds between a word and a silence is no word: it is too short, or nobody is heard in it. */
function isLeftOver(witnesses: readonly (SpeechWitness | undefined)[], from: Seconds, to: Seconds): boolean {
  if (to - from <= ECHO) return true;
  if (to - from > LONG_ECHO || witnesses.length === 0) return false;
  for (const witness of witnesses)
    if (!witness?.hushedAfter(Math.round(from * LEVEL_RATE), Math.round(to * LEVEL_RATE))) return false;
  return true;
}

/** What is taken of a found pause: inset by the air, then further in to the quietest moment near. */
function takenOf(found: Range, tracks: readonly ListeningTrack[], prepared: PreparedPauses, settings: Settings): Range {
  const { guards, duration } = prepared;
  // Only exact times say that nothing soft is left beyond them.
  const { before, after } = wordsBeside(found, guards.exact);
  const asked = airOf(found, prepared, settings);
  const airAfter = Math.max(asked.after, before ? 0 : Math.max(SOFT_END, lingering(tracks, found.start, 1)));
  const airBefore = Math.max(asked.before, after ? 0 : Math.max(SOFT_START, lingering(tracks, found.end, -1)));
  // The recording's own ends are no words: no air is owed to them.
  const start = found.start <= 0 ? 0 : found.start + airAfter;
  const end = found.end >= duration ? duration : found.end - airBefore;
  const reach = Math.min(QUIET_REACH, Math.max(0, (end - start) / 4));
  return {
    start: start === 0 ? 0 : quietest(tracks, start, start + reach, 1),
    end: end === duration ? duration : quietest(tracks, end, end - reach, -1),
  };
}

/** The air that settings ask for at the start and the end of a pause. */
function airOf(
  { start }: Range,
  prepared: PreparedPauses,
  settings: Settings,
): { readonly after: Seconds; readonly before: Seconds } {
  const { airSentence, airTurn, airBefore } = settings;
  if (airTurn !== 'same' && isEndAt(prepared.ends.turns, start)) return { after: airTurn / 2, before: airTurn / 2 };
  const after = airSentence !== 'same' && followsSentence(prepared, start) ? airSentence : settings.airAfter;
  return { after, before: airBefore };
}

/** How long sound lingers just over the room from an edge on into a pause: a weak release, the last of a vowel. */
function lingering(tracks: readonly ListeningTrack[], edge: Seconds, direction: 1 | -1): Seconds {
  const first = Math.round(edge * LEVEL_RATE) + (direction < 0 ? -1 : 0);
  let longest = 0;
  for (const { curve, tracked, tail } of tracks) {
    // What lingers in a room that does is no word.
    if (direction > 0 && tail > 0) continue;
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

/** Sounds that were taken for silence, to be asked pause by pause in order of time. */
class IgnoredSounds {
  private readonly cursors: number[];
  constructor(private readonly lists: SoundList['ignored']) {
    this.cursors = lists.map(() => 0);
  }

  /** Counts those inside `[from, to)`. */
  inside(from: number, to: number): { specks: number; breaths: number; noiseSamples: number; doubt: number; longNoise: boolean } {
    const counts = { specks: 0, breaths: 0, noiseSamples: 0, doubt: 1, longNoise: false };
    for (let which = 0; which < this.lists.length; which++) {
      const list = this.lists[which] as readonly number[];
      let at = this.cursors[which] as number;
      while (at < list.length && (list[at] as number) < from) at += 4;
      this.cursors[which] = at;
      for (; at < list.length && (list[at] as number) < to; at += 4) {
        const length = (list[at + 1] as number) - (list[at] as number);
        const kind = list[at + 2] as number;
        if (kind === IGNORED.speck) counts.specks++;
        else if (kind === IGNORED.breath) counts.breaths++;
        else counts.noiseSamples += length;
        const long = kind === IGNORED.noise && length > LONG_NOISE;
        if (long && list[at + 3] !== 2) counts.longNoise = true;
        const agreed = list[at + 3] === 2 || (list[at + 3] === 1 && !long);
        const doubt = agreed ? DOUBT_AGREED : kind === IGNORED.breath ? DOUBT_OF_BREATH : DOUBT_OF_SPECK;
        counts.doubt = Math.min(counts.doubt, doubt);
      }
    }
    return counts;
  }
}

function proposalOf(
  { found, taken, treated }: PausePart,
  range: Range,
  tracks: readonly ListeningTrack[],
  { calibration }: PreparedPauses,
  settings: Settings,
  sounds: IgnoredSounds,
): Proposal {
  const from = Math.round(found.start * LEVEL_RATE);
  const to = Math.max(from + 1, Math.round(found.end * LEVEL_RATE));
  let level = 0;
  let margin = Number.POSITIVE_INFINITY;
  let speech = -1;
  let bleeds = false;
  for (const { curve, tracked, sums, witness, bled } of tracks) {
    const last = curve.codes.length;
    if (bled && (bled[Math.min(to, last)] as number) - (bled[Math.min(from, last)] as number) > BLEEDS * (to - from))
      bleeds = true;
    const mean = ((sums[Math.min(to, last)] as number) - (sums[Math.min(from, last)] as number)) / (to - from);
    const open = openAt(tracked, Math.min(tracked.floor.length - 1, Math.floor(from / BLOCK)), settings.threshold);
    level = Math.max(level, mean);
    margin = Math.min(margin, (open - mean) / 2);
    if (witness && settings.voice === 'join') speech = Math.max(speech, witness.mean(from, to));
  }
  const { specks, breaths, noiseSamples, doubt, longNoise } = sounds.inside(from, to);
  const evidence: Record<string, number> = {
    levelDbfs: Math.round(codeToDbfs(level) * 10) / 10,
    underThresholdDb: Math.round(margin * 10) / 10,
    specks,
    breaths,
    noise: Math.round((noiseSamples / LEVEL_RATE) * 100) / 100,
    // The level of noise and bleed says nothing: they are judged by other means.
    margin: noiseSamples > 0 || bleeds ? MOST_MARGIN : Math.round(10 * Math.max(-5, Math.min(MOST_MARGIN, margin))) / 10,
    doubt: Math.round(100 * (1 - doubt)) / 100,
    seconds: Math.round(100 * Math.min(3, found.end - found.start)) / 100,
  };
  if (speech >= 0) evidence.speech = Math.round(speech * 100) / 100;
  else evidence.unheard = 1;
  return {
    id: proposalId('pause', found),
    kind: 'pause',
    start: range.start,
    end: range.end,
    found,
    taken,
    treatment: treated.treatment,
    amount: treated.amount,
    confidence: Math.min(longNoise ? MOST_OF_LONG_NOISE : 1, probabilityOf(calibration.pauses, evidence)),
    evidence,
  };
}
