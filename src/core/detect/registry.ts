import { applyText, type TextStep } from '../align/corrections.ts';
import { mergeInOrder } from '../time/merge.ts';
import { once } from '../transcript/memoize.ts';
import type { Word } from '../transcript/word.ts';
import { asides } from './asides/asides.ts';
import type { Decided, Detector, Material, Proposal } from './detector.ts';
import type { Settings } from './settings.ts';
import { type PreparedPauses, pauses } from './sound/pauses.ts';
import { type PreparedTakes, takes } from './takes/takes.ts';
import { fillers, type PreparedFillers } from './words/fillers.ts';
import { repeats } from './words/repeats.ts';
import { type Spoken, spokenOf } from './words/spoken.ts';
import { heard } from './words/unwrittenHesitations.ts';
import { wordsOnSound } from './words/wordEdges.ts';

/** Every detector there is. A new one is a file of its own and a line here. */
const DETECTORS: readonly Detector<unknown>[] = [
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
  /** the words with their edges on the sound */
  readonly words: () => readonly Word[];
  /** the words as they are judged, worked out when first asked for */
  readonly spoken: () => Spoken;
  /** one a detector; undefined for one that is not waited for */
  readonly parts: readonly (Part | undefined)[];
  /** what the last corrections came to, by how much time there was */
  readonly rewordings: Partial<Record<Pace, Rewording>>;
}

export function prepare(material: Material): PreparedMaterial {
  const parts: Part[] = DETECTORS.map((detector) => once(() => detector.prepare(material, () => spoken())));
  const bySound = () => parts[DETECTORS.indexOf(pauses as Detector<unknown>)]?.() as PreparedPauses;
  const words = once(() =>
    material.words.length === 0 ? [] : wordsOnSound(material.words, bySound().timing, bySound().bySound()),
  );
  const sound = once(() => ({ silences: bySound().bySound(), timing: bySound().timing }));
  const spoken = once(() => spokenOf(words(), material.language ?? 'en', sound));
  return { material, words, spoken, parts, rewordings: {} };
}

/**
 * How much time there is: at a `glance` only those answer that do so at once; in a `hurry` slow ones answer to the text before,
 * or not at all when there was none. What is no glance needs `loadSpeechParts`.
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
  const corrected = () => spokenOf(applyText(prepared.words(), steps), material.language ?? 'en', prepared.spoken().sound);
  const spoken = steps.length === 0 ? prepared.spoken : (hurried?.spoken ?? once(corrected));
  const parts = DETECTORS.map(({ speed, reword }, k): Part | undefined => {
    if (pace === 'glance' && speed !== 'at once') return undefined;
    if (pace === 'hurry' && speed === 'slow') return before[k];
    const part = prepared.parts[k] as Part;
    if (steps.length === 0 || !reword) return part;
    return (speed === 'slow' ? undefined : hurried?.parts[k]) ?? once(() => reword(part(), spoken()));
  });
  const answer = { material, words: prepared.words, spoken, parts, rewordings };
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

/** Proposals of all detectors, in order of time. */
export function detect({ parts }: PreparedMaterial, settings: Settings, decided: Decided): Proposal[] {
  return mergeInOrder(
    DETECTORS.flatMap((detector, at) => {
      const part = parts[at];
      return part ? [detector.detect(part(), settings, decided)] : [];
    }),
  );
}
