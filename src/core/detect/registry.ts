import { applyText, type TextStep } from '../align/corrections.ts';
import { wordsOnSound } from '../align/refine.ts';
import type { LevelCurve } from '../curves/level.ts';
import { echoesOnClock, levelsOnClock, type PlacedSound } from '../sources/placedSound.ts';
import { type Recording, recordingAt } from '../sources/recording.ts';
import { shiftRange, shiftWord, stepsOf, wordsOf } from '../sources/shift.ts';
import { mergeInOrder } from '../time/merge.ts';
import { type Range, type Seconds, union } from '../time/range.ts';
import { once } from '../transcript/memoize.ts';
import { Memory } from '../transcript/memory.ts';
import type { Word } from '../transcript/word.ts';
import { asides } from './asides/asides.ts';
import { clipProposal } from './clipProposal.ts';
import { type Decided, type Detector, type Material, type Proposal, proposalId } from './detector.ts';
import type { Settings } from './settings.ts';
import { type PreparedPauses, pauses } from './sound/pauses.ts';
import { quietestRoom, type RoomTone } from './sound/roomTone.ts';
import { type PreparedTakes, takes } from './takes/takes.ts';
import { fillers, type PreparedFillers } from './words/fillers.ts';
import { loudestOf } from './words/joining.ts';
import { repeats } from './words/repeats.ts';
import { type Spoken, spokenOf } from './words/spoken.ts';
import { heard } from './words/unwrittenHesitations.ts';

/** Every detector there is. A new one is a file of its own and a line here. */
export const DETECTORS: readonly Detector<unknown>[] = [
  pauses as Detector<unknown>,
  fillers as Detector<unknown>,
  repeats as Detector<unknown>,
  heard as Detector<unknown>,
  takes as Detector<unknown>,
  asides as Detector<unknown>,
];

/** What a detector works out once, worked out when it is first asked for. */
type Part<T = unknown> = () => T;

/** Material with what each detector works out once for all settings. */
export interface PreparedMaterial {
  readonly material: Material;
  /** each recording by itself, where there are several: then `material` is all of them on the episode clock */
  readonly recordings?: readonly PreparedRecording[];
  /** the quiet room of each recording in which there is one, in order of the clock; worked out when first asked for */
  readonly tones: () => readonly RoomTone[];
  /** the words with their edges on the sound */
  readonly words: () => readonly Word[];
  /** places among them of those that stand elsewhere than they are said: nothing is found by those */
  readonly stray: () => ReadonlySet<number>;
  /** the words as they are judged, worked out when first asked for */
  readonly spoken: () => Spoken;
  /** one a detector; undefined for one that is not waited for */
  readonly parts: readonly (Part | undefined)[];
  /** the last answer of each detector, by what it read. One alone: holding more makes steps of a slider wait for the collector */
  readonly answers: Answer[];
  /** what the last corrections came to, by how much time there was */
  readonly rewordings: Partial<Record<Pace, Rewording>>;
}

/** A recording prepared in its own time, and where it begins on the clock. */
export interface Placed {
  readonly start: Seconds;
  readonly prepared: PreparedMaterial;
}

/** One of several recordings. */
export interface PreparedRecording extends Placed, Recording {
  /** its proposals as they stand on the clock: most steps of a slider find most of them again */
  readonly onClock: WeakMap<Proposal, Proposal>;
}

/** All recordings of an episode, with its words on the episode clock. */
export interface EpisodeMaterial extends Pick<Material, 'words' | 'language' | 'calibration' | 'speechParts'> {
  /** in order of their places, one at least */
  readonly recordings: readonly PlacedSound[];
}

/**
 * Prepares an episode. Each recording is looked at by itself, since rooms and microphones differ; detectors of scope `episode` look
 * at all of them on one clock.
 */
export function prepareEpisode({ recordings: placed, words, ...rest }: EpisodeMaterial): PreparedMaterial {
  const recordings = placed.map(({ id, place, sound }): Recording => ({ id, start: place, end: place + sound.duration }));
  const [first] = placed as [PlacedSound];
  if (placed.length === 1 && first.place === 0) return prepare({ ...first.sound, ...rest, words, recordings });
  const each = recordings.map((recording, k): PreparedRecording => {
    const { sound } = placed[k] as PlacedSound;
    const prepared = prepare({ ...sound, ...rest, words: wordsOf(words, recording) });
    return { ...recording, prepared, onClock: new WeakMap() };
  });
  const material = knowingItsLoudest({
    ...rest,
    words,
    recordings,
    duration: Math.max(...recordings.map(({ end }) => end)),
    levels: levelsOnClock(placed),
    echoes: echoesOnClock(placed),
  });
  const onClock = once(() =>
    each.flatMap(({ prepared, start }) => prepared.words().map((word) => (start === 0 ? word : shiftWord(word, start)))),
  );
  const stray = once(() => {
    const places: number[] = [];
    let before = 0;
    for (const { prepared } of each) {
      for (const place of prepared.stray()) places.push(before + place);
      before += prepared.words().length;
    }
    return new Set(places);
  });
  const sound = once(() => {
    const sounds = each.map(({ prepared }) => prepared.spoken().sound());
    const inside = sounds.flatMap(({ silences }, k) => silences.map((range) => shiftRange(range, recordings[k]?.start ?? 0)));
    const between = recordings.slice(1).map(({ start }, k) => ({ start: (recordings[k] as Recording).end, end: start }));
    return {
      silences: union([...inside, ...between]),
      // As exact as the least exact of them.
      timing: sounds.map(({ timing }) => timing).reduce((worst, timing) => (timing.error > worst.error ? timing : worst)),
    };
  });
  const spoken = once(() =>
    spokenOf(relied(onClock(), stray()), material.language ?? 'en', sound, new Memory(), material.speechParts?.of),
  );
  const parts = DETECTORS.map((detector) => once(() => detector.prepare(material, spoken)));
  const tones = once(() => recordings.flatMap((recording, k) => tonesOf(recording, placed[k]?.sound.levels ?? [])));
  return { material, recordings: each, tones, words: onClock, stray, spoken, parts, answers: [], rewordings: {} };
}

/** The recording that a moment of the clock lies in, prepared, and where it begins. */
export const preparedAt = (prepared: PreparedMaterial, at: Seconds): Placed =>
  recordingAt(prepared.recordings ?? [], at) ?? { start: 0, prepared };

/** Each recording by itself, and where it begins. */
export const eachPrepared = (prepared: PreparedMaterial): readonly Placed[] => prepared.recordings ?? [{ start: 0, prepared }];

function tonesOf(of: Range, levels: readonly LevelCurve[]): RoomTone[] {
  const tone = quietestRoom(levels);
  return tone ? [{ of: { start: of.start, end: of.end }, tone: shiftRange(tone, of.start) }] : [];
}

interface Answer {
  readonly key: string;
  readonly found: Proposal[];
}

const knowingItsLoudest = (material: Material): Material => ({ ...material, loudest: once(() => loudestOf(material.levels)) });

/** Prepares one recording. */
export function prepare(bare: Material): PreparedMaterial {
  const material = knowingItsLoudest(bare);
  const parts: Part[] = DETECTORS.map((detector) => once(() => detector.prepare(material, () => spoken())));
  const bySound = () => parts[DETECTORS.indexOf(pauses as Detector<unknown>)]?.() as PreparedPauses;
  const words = once(() =>
    material.words.length === 0 ? [] : wordsOnSound(material.words, bySound().timing, bySound().bySound()),
  );
  const sound = once(() => ({ silences: bySound().bySound(), timing: bySound().timing }));
  const stray = () => bySound().stray;
  const spoken = once(() =>
    spokenOf(relied(words(), stray()), material.language ?? 'en', sound, new Memory(), material.speechParts?.of),
  );
  const tones = once(() => tonesOf({ start: 0, end: material.duration }, material.levels));
  return { material, tones, words, stray, spoken, parts, answers: [], rewordings: {} };
}

/** Words that something is found by: the very same where all are. */
const relied = (words: readonly Word[], stray: ReadonlySet<number>): readonly Word[] =>
  stray.size === 0 ? words : words.filter((_, k) => !stray.has(k));

/**
 * How much time there is: at a `glance` only those answer that do so at once; in a `hurry` slow ones answer to the text before,
 * or not at all when there was none. What is no glance needs `speechParts` that are loaded.
 */
export type Pace = 'whole' | 'hurry' | 'glance';

interface Rewording {
  readonly steps: readonly TextStep[];
  readonly answer: PreparedMaterial;
}

/** The same with words corrected. What the last corrections came to is kept, since sliders move between them. */
export function reworded(prepared: PreparedMaterial, steps: readonly TextStep[], pace: Pace = 'whole'): PreparedMaterial {
  const { rewordings } = prepared;
  const knownAt = (asked: Pace) => (isOf(rewordings[asked], steps) ? rewordings[asked]?.answer : undefined);
  const hurried = knownAt('hurry');
  const known = knownAt('whole') ?? knownAt(pace);
  if (known) return known;
  const before = rewordings.whole?.answer.parts ?? [];
  const { material } = prepared;
  const corrected = () => {
    const { sound, memory, partOf } = prepared.spoken();
    return spokenOf(
      applyText(relied(prepared.words(), prepared.stray()), steps, memory),
      material.language ?? 'en',
      sound,
      memory,
      partOf,
    );
  };
  const spoken = steps.length === 0 ? prepared.spoken : (hurried?.spoken ?? once(corrected));
  const parts = DETECTORS.map(({ speed, reword }, k): Part | undefined => {
    if (pace === 'glance' && speed !== 'at once') return undefined;
    if (pace === 'hurry' && speed === 'slow') return before[k];
    const part = prepared.parts[k] as Part;
    if (steps.length === 0 || !reword) return part;
    return (speed === 'slow' ? undefined : hurried?.parts[k]) ?? once(() => reword(part(), spoken()));
  });
  const recordings = prepared.recordings?.map((recording) => ({
    ...recording,
    prepared: reworded(recording.prepared, stepsOf(steps, recording), pace),
  }));
  const answer = {
    material,
    tones: prepared.tones,
    words: prepared.words,
    stray: prepared.stray,
    spoken,
    parts,
    answers: [],
    rewordings,
    ...(recordings && { recordings }),
  };
  rewordings[pace] = { steps, answer };
  return answer;
}

const isOf = (known: Rewording | undefined, steps: readonly TextStep[]): boolean =>
  known?.steps.length === steps.length && known.steps.every((step, k) => step.id === steps[k]?.id);

const partOf = <T>({ parts }: PreparedMaterial, detector: Detector<T>): T =>
  parts[DETECTORS.indexOf(detector as Detector<unknown>)]?.() as T;

/** What the pause detector worked out, for those who look at pauses themselves. */
export const preparedPauses = (prepared: PreparedMaterial): PreparedPauses => partOf(prepared, pauses);
export const preparedFillers = (prepared: PreparedMaterial): PreparedFillers => partOf(prepared, fillers);
export const preparedTakes = (prepared: PreparedMaterial): PreparedTakes => partOf(prepared, takes);

/** Proposals of all detectors, in order of time. None reaches past the end of its recording. */
export function detect(prepared: PreparedMaterial, settings: Settings, decided: Decided): Proposal[] {
  const { recordings } = prepared;
  if (!recordings) return mergeInOrder(detectBy(DETECTORS, prepared, settings, decided));
  const own = recordings.map(({ prepared: one, start, onClock }) => {
    const found = mergeInOrder(detectBy(OF_A_RECORDING, one, settings, decided));
    return start === 0 ? found : found.map((proposal) => onClockOf(proposal, start, onClock));
  });
  // An attempt lies where it begins, whatever silence behind it would go along.
  const homeOf = ({ found }: Proposal) => recordingAt(recordings, found.start) as Recording;
  const across = detectBy(OF_AN_EPISODE, prepared, settings, decided).map((found) =>
    found.flatMap((proposal) => clipProposal(proposal, homeOf(proposal)) ?? []),
  );
  return mergeInOrder([...own, ...across]);
}

const OF_AN_EPISODE = DETECTORS.filter(({ scope }) => scope === 'episode');
const OF_A_RECORDING = DETECTORS.filter(({ scope }) => scope !== 'episode');

const detectBy = (
  detectors: readonly Detector<unknown>[],
  prepared: PreparedMaterial,
  settings: Settings,
  decided: Decided,
): Proposal[][] => detectors.flatMap((detector) => answerOf(detector, prepared, settings, decided) ?? []);

/** The answer of one detector, worked out where what it reads is another than before; none where it is not waited for. */
function answerOf(
  detector: Detector<unknown>,
  { parts, answers }: PreparedMaterial,
  settings: Settings,
  decided: Decided,
): [Proposal[]] | undefined {
  const at = DETECTORS.indexOf(detector);
  const part = parts[at];
  if (!part) return undefined;
  const key = JSON.stringify([
    detector.reads.map((name) => settings[name]),
    detector.readsDecided && [decided.takes, decided.removed],
  ]);
  const known = answers[at];
  if (known?.key === key) return [known.found];
  const found = detector.detect(part(), settings, decided);
  answers[at] = { key, found };
  return [found];
}

function onClockOf(proposal: Proposal, by: Seconds, known: WeakMap<Proposal, Proposal>): Proposal {
  let placed = known.get(proposal);
  if (!placed) {
    const found = shiftRange(proposal.found, by);
    const id = proposalId(proposal.kind, found);
    placed = { ...proposal, ...shiftRange(proposal, by), id, found, taken: shiftRange(proposal.taken, by) };
    known.set(proposal, placed);
  }
  return placed;
}
