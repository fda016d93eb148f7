import { spokenWeight } from '../../align/weight.ts';
import type { HesitationCurve } from '../../curves/hesitation.ts';
import { LEVEL_RATE } from '../../curves/level.ts';
import { meanSpeech } from '../../curves/speech.ts';
import { type HeldSounds, semitones } from '../../curves/voice.ts';
import { codeQuantile } from '../../numbers/quantile.ts';
import { firstAfter, overlapWith, type Range, type Seconds, union } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import { FITTED } from '../calibration/fitted.ts';
import { probabilityOf } from '../calibration/logistic.ts';
import { type Detector, type Material, type Proposal, proposalId } from '../detector.ts';
import { joinAround, type Loudest, loudestIn, sureOfOthers } from './joining.ts';
import { hesitationsOf } from './lexicon.ts';
import type { Spoken } from './spoken.ts';
import { REMARK_SECONDS, unwrittenIn } from './unwritten.ts';
import { byGuess, hesitationScore, hundredth, likeness, saidEvidence } from './wordEvidence.ts';

export interface PreparedHeard {
  readonly spoken: Spoken;
  readonly loudest: Loudest;
  readonly voice: readonly HeldSounds[] | undefined;
  readonly duration: Seconds;
  readonly found: readonly Heard[];
}

/** A hesitation that is heard where no word is written, or under a word that is far too long for it. */
interface Heard {
  readonly range: Range;
  /** end of the word before, start of the word after */
  readonly before: Seconds;
  readonly after: Seconds;
  readonly confidence: number;
  readonly evidence: Readonly<Record<string, number>>;
}

/** Between words less than this is no room for a hesitation; a longer sound than that is more than one. */
const LEAST_GAP: Seconds = 0.06;
const LONGEST: Seconds = 1.2;
/** A vowel or nasal held for less is not held. */
const LEAST_HELD: Seconds = 0.043;
/** A sound this much like hesitating (log-odds), for this long, is looked at even where no pitch is held. */
const LEAST_SCORE = -2.5;
const LEAST_SCORED: Seconds = 0.12;
/** Held sounds with less than this between them are one. */
const JOIN: Seconds = 0.1;
/** A word this much longer than it takes to say may hide a hesitation ... */
const EXCESS: Seconds = 0.5;
/** ... of at least this length. */
const HIDDEN_HELD: Seconds = 0.3;
/** Under this nobody needs to be asked. */
const LEAST_PROBABILITY = 0.3;
/** Sounds this little like hesitating are words that the transcript lacks. */
const WORD_SCORE = -4.5;
/** Seconds round a sound in which the room's level is looked for. */
const AROUND: Seconds = 3;

/**
 * Hesitations that the transcript leaves out, as recognisers do: voiced sound that no word covers. What it is most likely is told
 * from how long and how evenly it is held, what stands beside it, how much it sounds like hesitating, and how much else the
 * transcript leaves uncovered: one that drops words proves little.
 */
export const heard: Detector<PreparedHeard> = {
  kind: 'filler',
  reads: ['heard', 'minPause', 'airBefore', 'airAfter', 'fillerTreatment'],
  speed: 'slow',
  prepare(material: Material, spoken) {
    const [words, loudest] = [spoken(), loudestIn(material)];
    const { voice, duration } = material;
    return { spoken: words, loudest, voice, duration, found: hesitationsIn(words, material, loudest) };
  },
  // Words that are taken out of the text keep what they cover, and corrections keep all time: nothing is heard anew.
  reword: (prepared, spoken) => ({ ...prepared, spoken }),

  detect({ found, loudest, spoken }, settings): Proposal[] {
    if (settings.heard === 'leave') return [];
    return found.map(({ range, before, after, confidence, evidence }) => {
      const taken = joinAround(range, { before, after, naturalGap: spoken.naturalGap }, loudest, settings);
      const goes = settings.fillerTreatment === 'hole' ? range : taken;
      return {
        id: proposalId('filler', range),
        kind: 'filler',
        ...goes,
        found: range,
        taken: goes,
        treatment: settings.fillerTreatment,
        confidence,
        group: HEARD_GROUP,
        evidence,
      };
    });
  },
};

/** What hesitations without a word are counted under. */
export const HEARD_GROUP = 'heard, not written';

function hesitationsIn(spoken: Spoken, material: Material, loudest: Loudest): Heard[] {
  const { voice, hesitation, duration, calibration = FITTED } = material;
  const { words } = spoken;
  if (!voice || words.length === 0) return [];
  const candidates = gapsBetween(words, duration).flatMap((gap): Candidate[] => {
    const held = heldIn(voice, gap) ?? likeHesitating(hesitation, loudest, gap);
    if (!held || held.range.end - held.range.start < LEAST_HELD) return [];
    const range = soundRound(loudest, held.range, gap);
    if (isSpokenBeside(spoken, range, gap)) return [];
    return [{ held, range, gap, score: hesitation ? hesitationScore(hesitation, range.start, range.end) : 0 }];
  });
  // What is uncovered and sounds like no hesitation is a word that the transcript lacks.
  const lacking = candidates.filter(({ score }) => score < (hesitation ? WORD_SCORE : 0)).length / words.length;
  const uncovered = candidates.map((candidate) => {
    const evidence = {
      ...evidenceOf(candidate, spoken, loudest, lacking, hesitation),
      ...speechEvidence(material, candidate.range),
    };
    const confidence = probabilityOf(calibration.heard, evidence);
    const { range, gap } = candidate;
    const beside = wordsBeside(words, range);
    const { before, after } = sureOfOthers(...beside, duration);
    const found = { range, before: Math.max(gap.start, before), after: Math.min(gap.end, after), confidence, evidence };
    // A sound beside a word whose place is guessed may be that word.
    return beside.some((word) => word?.timing === 'estimated') ? byGuess(found) : found;
  });
  const hesitations = hesitationsOf(spoken.language, 'shipped');
  const hidden = hiddenIn(spoken, material, loudest, (place) => hesitations.has(spoken.plain[place] as string));
  return [...uncovered, ...hidden]
    .filter(({ range: { start, end }, confidence }) => {
      const length = end - start;
      return confidence >= LEAST_PROBABILITY && length >= LEAST_GAP && length <= LONGEST;
    })
    .sort((a, b) => a.range.start - b.range.start);
}

/** The words before and behind a sound. */
function wordsBeside(words: readonly Word[], { start }: Range): [Word | undefined, Word | undefined] {
  const next = firstAfter(words.length, (k) => (words[k] as Word).start, start);
  return [words[next - 1], words[next]];
}

/** An uncovered sound that may be a hesitation. */
interface Candidate {
  readonly held: Held;
  readonly range: Range;
  readonly gap: Range;
  /** log-odds that it sounds like hesitating */
  readonly score: number;
}

/** The longest sound in a gap, if it sounds like hesitating, where no pitch is held: a whispered or creaking one. */
function likeHesitating(hesitation: readonly HesitationCurve[] | undefined, loudest: Loudest, gap: Range): Held | undefined {
  if (!hesitation) return undefined;
  const open = openAround(loudest, gap);
  let [best, from] = [{ start: 0, end: 0 }, -1];
  const until = Math.round(gap.end * LEVEL_RATE);
  for (let k = Math.round(gap.start * LEVEL_RATE); k <= until; k++) {
    if (k < until && (loudest[k] ?? 0) >= open) {
      if (from < 0) from = k;
      continue;
    }
    if (from >= 0 && (k - from) / LEVEL_RATE > best.end - best.start) best = { start: from / LEVEL_RATE, end: k / LEVEL_RATE };
    from = -1;
  }
  if (best.end - best.start < LEAST_SCORED || hesitationScore(hesitation, best.start, best.end) < LEAST_SCORE) return undefined;
  return { range: best, held: 0, change: 0, pitchSpread: 0 };
}

/** Whether more than a remark is said in a gap beside a sound: whole sentences are not written there, and their vowels are held as well. */
const isSpokenBeside = (spoken: Spoken, { start, end }: Range, gap: Range): boolean =>
  gap.end - gap.start - (end - start) > REMARK_SECONDS && unwrittenIn(spoken, gap) - (end - start) > REMARK_SECONDS;

function gapsBetween(words: readonly Word[], duration: Seconds): Range[] {
  const covered = union(words);
  const gaps: Range[] = [];
  for (let k = 1; k < covered.length; k++) {
    const [start, end] = [(covered[k - 1] as Range).end, Math.min(duration, (covered[k] as Range).start)];
    if (end - start >= LEAST_GAP) gaps.push({ start, end });
  }
  return gaps;
}

interface Held {
  readonly range: Range;
  /** seconds held, mean change of the spectrum in decibels a frame, spread of the pitch in semitones */
  readonly held: Seconds;
  readonly change: number;
  readonly pitchSpread: number;
}

/** The longest run of held sounds inside a stretch, on the track that holds the most. */
function heldIn(voice: readonly HeldSounds[], gap: Range): Held | undefined {
  let best: Held | undefined;
  for (const track of voice) for (const run of runsIn(track, gap)) if (!best || run.held > best.held) best = run;
  return best;
}

function runsIn({ starts, lengths, pitches, changes }: HeldSounds, gap: Range): Held[] {
  const runs: { range: { start: number; end: number }; held: number; change: number; low: number; high: number }[] = [];
  let k = firstAfter(starts.length, (at) => (starts[at] as number) / 1000, gap.start - LONGEST_SOUND);
  for (; k < starts.length && (starts[k] as number) / 1000 < gap.end; k++) {
    const from = Math.max(gap.start, (starts[k] as number) / 1000);
    const to = Math.min(gap.end, ((starts[k] as number) + (lengths[k] as number)) / 1000);
    const [pitch, change] = [pitches[k] as number, (changes[k] as number) / 10];
    // A sliver belongs to the word beside.
    if (to - from < LEAST_SLIVER) continue;
    const last = runs.at(-1);
    if (last && from - last.range.end <= JOIN) {
      last.range.end = to;
      last.held += to - from;
      last.change += change * (to - from);
      last.low = Math.min(last.low, pitch);
      last.high = Math.max(last.high, pitch);
    } else runs.push({ range: { start: from, end: to }, held: to - from, change: change * (to - from), low: pitch, high: pitch });
  }
  return runs.map(({ range, held, change, low, high }) => ({
    range,
    held,
    change: change / held,
    pitchSpread: Math.abs(semitones(low, high)),
  }));
}

const LONGEST_SOUND: Seconds = 3;
const LEAST_SLIVER: Seconds = 0.016;

/** The sound round what is held: from where it rises out of the room to where it sinks back, inside its gap. */
function soundRound(loudest: Loudest, held: Range, gap: Range): Range {
  const open = openAround(loudest, gap);
  let from = Math.round(held.start * LEVEL_RATE);
  let to = Math.round(held.end * LEVEL_RATE);
  while (from > gap.start * LEVEL_RATE && (loudest[from - 1] ?? 0) >= open) from--;
  while (to < gap.end * LEVEL_RATE && (loudest[to] ?? 0) >= open) to++;
  return { start: Math.max(gap.start, from / LEVEL_RATE), end: Math.min(gap.end, to / LEVEL_RATE) };
}

/** Levels of the neighbours are looked at over this much of them. */
const BESIDE: Seconds = 0.4;
const MOST_PAUSE: Seconds = 0.6;

/** The level code from which on something sounds in a gap. */
function openAround(loudest: Loudest, gap: Range): number {
  const near = loudest.subarray(
    Math.max(0, Math.round((gap.start - AROUND) * LEVEL_RATE)),
    Math.round((gap.end + AROUND) * LEVEL_RATE),
  );
  const [room, loud] = [codeQuantile(near, 0.1), codeQuantile(near, 0.9)];
  return room + Math.max(12, (loud - room) * 0.25);
}

function evidenceOf(
  { held, range, gap }: Candidate,
  { words, sound, clean }: Spoken,
  loudest: Loudest,
  lacking: number,
  hesitation: readonly HesitationCurve[] | undefined,
): Record<string, number> {
  const length = range.end - range.start;
  const quiet = (from: Seconds, to: Seconds) =>
    Math.min(MOST_PAUSE, overlapWith(sound().silences, { start: Math.max(from, gap.start - BESIDE), end: to }));
  const [pauseBefore, pauseAfter] = [quiet(gap.start, range.start), quiet(range.end, gap.end)];
  const sure = Math.min(...wordsBeside(words, range).map((word) => word?.confidence ?? 1));
  const own = levelOver(loudest, range);
  const others = Math.max(
    levelOver(loudest, { start: gap.start - BESIDE, end: gap.start }),
    levelOver(loudest, { start: gap.end, end: gap.end + BESIDE }),
  );
  return {
    heldSeconds: Math.round(held.held * 1000) / 1000,
    heldShare: hundredth(Math.min(1, held.held / length)),
    seconds: hundredth(length),
    logSeconds: hundredth(Math.log(length)),
    spectrumChange: Math.round(held.change * 10) / 10,
    pitchSpread: Math.round(held.pitchSpread * 10) / 10,
    pauseBeside: hundredth(Math.max(pauseBefore, pauseAfter)),
    pausesBoth: hundredth(Math.min(pauseBefore, pauseAfter)),
    spareRoom: hundredth(Math.min(1, gap.end - gap.start - length)),
    underNeighbours: hundredth(Math.max(-20, Math.min(20, (others - own) / 2))),
    neighboursSure: hundredth(sure),
    wordsMissing: hundredth(Math.min(0.3, lacking)),
    clean,
    inexact: sound().timing.exact ? 0 : 1,
    ...likeness(hesitation, range.start, range.end),
  };
}

/** Whether anybody is heard at all: a breath or a machine may sound like hesitating. */
function speechEvidence({ speech }: Material, { start, end }: Range): Record<string, number> {
  if (!speech) return { speech: 0, unheard: 1 };
  return { speech: hundredth(Math.max(...speech.map((curve) => meanSpeech(curve, start, end)))), unheard: 0 };
}

/** The level code that a third of a stretch exceeds. */
const levelOver = (loudest: Loudest, { start, end }: Range): number =>
  codeQuantile(loudest.subarray(Math.max(0, Math.round(start * LEVEL_RATE)), Math.max(1, Math.round(end * LEVEL_RATE))), 0.67);

/**
 * Hesitations under a word that was written: recognisers write "and" or "them" for "um", or have a word last over the hesitation
 * behind it. Words that sound like hesitating, and words far too long for what they say with a long held sound in them.
 */
function hiddenIn(
  spoken: Spoken,
  { voice, hesitation, calibration = FITTED }: Material,
  loudest: Loudest,
  isWritten: (place: number) => boolean,
): Heard[] {
  const { words } = spoken;
  return words.flatMap((word, place): Heard[] => {
    if (word.timing === 'estimated' || spoken.plain[place] === '' || isWritten(place)) return [];
    const held = drawnOut(word, voice ?? []);
    if (!held && (word.end - word.start < LEAST_SCORED || !isLikeHesitating(word, loudest, hesitation))) return [];
    const range = held ?? { start: word.start, end: word.end };
    const before = Math.min(words[place - 1]?.end ?? word.start, range.start);
    const after = held ? held.end : (words[place + 1]?.start ?? word.end);
    const evidence = {
      ...saidEvidence(spoken, place, 1, hesitation),
      heldSeconds: held ? Math.round(1000 * (held.end - held.start)) / 1000 : 0,
      pauseBefore: pauseOf(word.start - (words[place - 1]?.end ?? 0)),
      pauseAfter: pauseOf((words[place + 1]?.start ?? word.end + MOST_PAUSE) - word.end),
      underWord: 1,
    };
    return [{ range, before, after, confidence: probabilityOf(calibration.underWord, evidence), evidence }];
  });
}

/** Log-odds from which on a written word is looked at for a hesitation. */
const LEAST_HIDDEN_SCORE = -2.5;

/** Whether what is heard under a word sounds like hesitating. Where nothing is heard, as where a recorder did not run, nobody hesitates. */
function isLikeHesitating(word: Range, loudest: Loudest, hesitation: readonly HesitationCurve[] | undefined): boolean {
  if (!hesitation || levelOver(loudest, word) < openAround(loudest, word)) return false;
  return likeness(hesitation, word.start, word.end).soundsLike >= LEAST_HIDDEN_SCORE;
}

const pauseOf = (seconds: Seconds): Seconds => Math.round(100 * Math.max(0, Math.min(MOST_PAUSE, seconds))) / 100;

/** The long held sound of a word far too long for what it says. Hardly a word is that long: weighing all would take long. */
function drawnOut(word: Word, voice: readonly HeldSounds[]): Range | undefined {
  const length = word.end - word.start;
  if (length < EXCESS || length < spokenWeight(word.text) + EXCESS) return undefined;
  const held = heldIn(voice, word);
  return held && held.held >= HIDDEN_HELD && held.held >= length / 2 ? held.range : undefined;
}
