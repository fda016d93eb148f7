import { spokenWeight } from '../align/weight.ts';
import { LEVEL_RATE } from '../curves/level.ts';
import { type HeldSounds, semitones } from '../curves/voice.ts';
import { firstAfter, type Range, type Seconds, union } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { type Detector, type Material, type Proposal, proposalId } from './detector.ts';
import { joinAround, type Loudest, loudestOf } from './joining.ts';
import { codeQuantile } from './quantile.ts';
import type { Spoken } from './spoken.ts';

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
/** A vowel or nasal held for less may be the end of a word whose time is a little off. */
const LEAST_HELD: Seconds = 0.043;
/** Held sounds with less than this between them are one. */
const JOIN: Seconds = 0.1;
/** A word this much longer than it takes to say may hide a hesitation ... */
const EXCESS: Seconds = 0.5;
/** ... of at least this length. */
const HIDDEN_HELD: Seconds = 0.3;
/** A transcript that leaves out more words than this of all, leaves out others than hesitations. */
const MISSES = 0.06;
/** A short transcript may have this many for all its length. */
const ALWAYS_SOME = 2;
const LEAST_CONFIDENCE = 0.45;
/** Seconds round a sound in which the room's level is looked for. */
const AROUND: Seconds = 3;

/**
 * Hesitations that the transcript leaves out, as recognisers do: voiced sound that no word covers, held long and evenly
 * as "um" and "uh" are. A transcript that leaves much more than that uncovered lacks words, and then proves little.
 */
export const heard: Detector<PreparedHeard> = {
  kind: 'filler',
  speed: 'slow',
  prepare({ levels, voice, duration }: Material, spoken) {
    const [words, loudest] = [spoken(), loudestOf(levels)];
    return { spoken: words, loudest, voice, duration, found: hesitationsIn(words, voice, loudest, duration) };
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

function hesitationsIn(
  { words }: Spoken,
  voice: readonly HeldSounds[] | undefined,
  loudest: Loudest,
  duration: Seconds,
): Heard[] {
  if (!voice || words.length === 0) return [];
  const gaps = gapsBetween(words, duration).flatMap((gap) => {
    const held = heldIn(voice, gap);
    return held && held.held >= LEAST_HELD ? [{ gap, ...held }] : [];
  });
  const misses = gaps.length - ALWAYS_SOME > MISSES * words.length;
  const uncovered = gaps.map(({ gap, ...held }) => {
    const range = soundRound(loudest, held.range, gap);
    return { range, before: gap.start, after: gap.end, ...confidenceOf(held, range, gap, misses) };
  });
  return [...uncovered, ...hiddenIn(words, voice)]
    .filter(({ range: { start, end }, confidence }) => {
      const length = end - start;
      return confidence >= LEAST_CONFIDENCE && length >= LEAST_GAP && length <= LONGEST;
    })
    .sort((a, b) => a.range.start - b.range.start);
}

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
  const near = loudest.subarray(
    Math.max(0, Math.round((gap.start - AROUND) * LEVEL_RATE)),
    Math.round((gap.end + AROUND) * LEVEL_RATE),
  );
  const [room, loud] = [codeQuantile(near, 0.1), codeQuantile(near, 0.9)];
  const open = room + Math.max(12, (loud - room) * 0.25);
  let from = Math.round(held.start * LEVEL_RATE);
  let to = Math.round(held.end * LEVEL_RATE);
  while (from > gap.start * LEVEL_RATE && (loudest[from - 1] ?? 0) >= open) from--;
  while (to < gap.end * LEVEL_RATE && (loudest[to] ?? 0) >= open) to++;
  return { start: Math.max(gap.start, from / LEVEL_RATE), end: Math.min(gap.end, to / LEVEL_RATE) };
}

function confidenceOf({ held, change, pitchSpread }: Held, range: Range, gap: Range, misses: boolean) {
  const length = range.end - range.start;
  const evidence: Record<string, number> = {
    heldSeconds: Math.round(held * 1000) / 1000,
    heldShare: Math.round((held / length) * 100) / 100,
    spectrumChange: Math.round(change * 10) / 10,
    pitchSpread: Math.round(pitchSpread * 10) / 10,
    pauseBeside: Math.round(Math.max(range.start - gap.start, gap.end - range.end) * 100) / 100,
    wordsMissing: misses ? 1 : 0,
  };
  const sum =
    0.3 +
    (held / length >= 0.4 ? 0.8 : -0.6) +
    (change <= 2.5 ? 0.5 : -0.8) +
    (pitchSpread <= 4 ? 0.4 : -0.6) +
    (Math.max(range.start - gap.start, gap.end - range.end) >= 0.08 ? 0.6 : -0.4) +
    (held >= 0.25 ? 0.6 : 0) +
    (misses ? -3.6 : 0);
  return { confidence: Math.round(100 / (1 + Math.exp(-sum))) / 100, evidence };
}

/** Words far too long for what they say, with a long held sound in them: to be listened to, not to be taken out unheard. */
function hiddenIn(words: readonly Word[], voice: readonly HeldSounds[]): Heard[] {
  const hidden: Heard[] = [];
  for (const [k, word] of words.entries()) {
    const length = word.end - word.start;
    // Hardly a word is that long: weighing all of them would take longer than all the rest here.
    if (word.timing === 'estimated' || length < EXCESS || length < spokenWeight(word.text) + EXCESS) continue;
    const held = heldIn(voice, word);
    if (!held || held.held < HIDDEN_HELD || held.held < length / 2) continue;
    const { range } = held;
    const before = Math.min(words[k - 1]?.end ?? word.start, range.start);
    const evidence = { heldSeconds: Math.round(held.held * 1000) / 1000, underWord: 1 };
    hidden.push({ range, before, after: range.end, confidence: 0.5, evidence });
  }
  return hidden;
}
