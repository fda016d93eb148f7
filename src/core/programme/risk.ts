import { LEVEL_RATE } from '../curves/level.ts';
import { type HeldSounds, semitones } from '../curves/voice.ts';
import type { DecidedProposal } from '../decisions/matching.ts';
import type { PreparedPauses } from '../detect/sound/pauses.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';

/** What may be wrong with a seam. The interface words it. */
export type SeamDoubt = 'ending' | 'onset' | 'inside' | 'room' | 'close' | 'pitch' | 'word';

export interface SeamRisk {
  /** 0 for nothing, about 1 for a join that is surely heard */
  readonly harsh: number;
  /** whether the recording begins or ends with it */
  readonly atEnd: boolean;
  readonly doubt: SeamDoubt;
}

/** Stretch on either side of a cut that is looked at. */
const LOOK: Seconds = 0.06;
const ROOM: Seconds = 0.15;
/** Decibels over the room, or from room to room, that count as fully doubtful. */
const OVER_ROOM = 10;
const ROOM_STEP = 10;

/** What else is known about both sides of a seam. */
export interface Beside {
  readonly voice?: readonly HeldSounds[] | undefined;
  readonly words?: readonly Word[] | undefined;
}

/** How the two sides of a seam differ. */
export interface SeamMeasure {
  /** decibels from the sound that is left on one side to that on the other */
  readonly levelStep: number;
  /** decibels between the rooms on both sides, speech left out */
  readonly roomStep: number;
  /** semitones from the last held sound before to the first behind; left out where nothing is held near */
  readonly pitchStep: number | undefined;
  /** the edge lies inside a word that stays */
  readonly midWord: boolean;
}

/** Held sounds further from a seam than this are not compared. */
const PITCH_NEAR: Seconds = 0.4;
/** Semitones that count as fully doubtful. */
const PITCH_STEP = 9;
/** An edge this far inside a word is heard. */
const IN_WORD: Seconds = 0.02;

/** Measures the seam that a stretch leaves when it is taken out. */
export function measureSeam(prepared: PreparedPauses, { start, end }: Range, { voice, words }: Beside): SeamMeasure {
  return {
    levelStep: Math.abs(levelOf(prepared, start - LOOK, start) - levelOf(prepared, end, end + LOOK)) / 2,
    roomStep: Math.abs(floorAt(prepared, start) - floorAt(prepared, end)) / 2,
    pitchStep: pitchStep(voice, start, end),
    midWord: cutsWord(words ?? [], start, end),
  };
}

function pitchStep(voice: readonly HeldSounds[] | undefined, start: Seconds, end: Seconds): number | undefined {
  for (const { starts, lengths, pitches } of voice ?? []) {
    const endOf = (k: number) => ((starts[k] as number) + (lengths[k] as number)) / 1000;
    const next = firstAfter(starts.length, (k) => (starts[k] as number) / 1000, end - IN_WORD);
    let before = firstAfter(starts.length, (k) => (starts[k] as number) / 1000, start) - 1;
    while (before >= 0 && endOf(before) > start + IN_WORD) before--;
    if (before < 0 || next >= starts.length) continue;
    if (start - endOf(before) > PITCH_NEAR || (starts[next] as number) / 1000 - end > PITCH_NEAR) continue;
    return Math.abs(semitones(pitches[before] as number, pitches[next] as number));
  }
  return undefined;
}

function cutsWord(words: readonly Word[], start: Seconds, end: Seconds): boolean {
  const inside = (at: Seconds) => {
    const word = words[firstAfter(words.length, (k) => (words[k] as Word).start, at - IN_WORD) - 1];
    return word !== undefined && at - word.start > IN_WORD && word.end - at > IN_WORD;
  };
  return inside(start) || inside(end);
}

/** How a seam may be wrong: what sounds on at its sides, what is swallowed inside, and how far its two sides differ. */
export function seamRisk(prepared: PreparedPauses, proposal: DecidedProposal, beside: Beside = {}): SeamRisk {
  const { start, end, confidence, evidence, kind } = proposal;
  const { specks = 0, breaths = 0, noise = 0 } = evidence;
  const atEnd = start <= 0 || end >= prepared.duration;
  const { roomStep, pitchStep, midWord } = measureSeam(prepared, proposal, beside);
  // Words that go are cut out of running speech: sound on both sides is no sign of anything there.
  const spoken = kind === 'filler' || kind === 'repeat';
  const left = spoken || start <= 0 ? 0 : overFloor(prepared, start - LOOK, start);
  const right = spoken || end >= prepared.duration ? 0 : overFloor(prepared, end, end + LOOK);
  // Beside a silence words fade and begin: only the room under them tells whether the join is heard.
  const step = spoken ? Math.abs(levelOf(prepared, start - ROOM, start) - levelOf(prepared, end, end + ROOM)) / 4 : 0;
  const joins: readonly (readonly [SeamDoubt, number])[] = [
    ['room', atEnd ? 0 : Math.min(1, Math.max(roomStep, step) / ROOM_STEP)],
    ['pitch', spoken && pitchStep !== undefined ? Math.min(1, pitchStep / PITCH_STEP) : 0],
    ['word', spoken && midWord ? 1 : 0],
  ];
  const parts: readonly (readonly [SeamDoubt, number])[] = [
    ...joins,
    ['ending', left / OVER_ROOM],
    ['onset', right / OVER_ROOM],
    ['inside', !spoken && (specks + breaths > 0 || noise > 0) ? 0.9 : 0],
    ['close', 1 - confidence],
  ];
  const [doubt] = parts.reduce((worst, part) => (part[1] > worst[1] ? part : worst));
  return { harsh: Math.max(...joins.map(([, risk]) => risk)), atEnd, doubt };
}

/** Level code of the room of the loudest track. */
function floorAt({ tracks }: PreparedPauses, at: Seconds): number {
  let floor = 0;
  for (const { curve, tracked } of tracks) {
    const block = Math.floor((at * LEVEL_RATE * tracked.floor.length) / curve.codes.length);
    floor = Math.max(floor, tracked.floor[Math.max(0, Math.min(tracked.floor.length - 1, block))] as number);
  }
  return floor;
}

/** Decibels that the loudest moment of a stretch stands over the room. */
function overFloor({ tracks }: PreparedPauses, from: Seconds, to: Seconds): number {
  let over = 0;
  for (const { curve, tracked } of tracks) {
    const first = Math.max(0, Math.round(from * LEVEL_RATE));
    for (let k = first; k < Math.round(to * LEVEL_RATE); k++) {
      const block = Math.min(tracked.floor.length - 1, Math.floor((k * tracked.floor.length) / curve.codes.length));
      over = Math.max(over, ((curve.codes[k] ?? 0) - (tracked.floor[block] as number)) / 2);
    }
  }
  return over;
}

/** Mean level code of the loudest track. */
function levelOf({ tracks }: PreparedPauses, from: Seconds, to: Seconds): number {
  let loudest = 0;
  for (const { curve, sums } of tracks) {
    const last = curve.codes.length;
    const first = Math.max(0, Math.min(last - 1, Math.round(from * LEVEL_RATE)));
    const end = Math.max(first + 1, Math.min(last, Math.round(to * LEVEL_RATE)));
    loudest = Math.max(loudest, ((sums[end] as number) - (sums[first] as number)) / (end - first));
  }
  return loudest;
}
