import { applyText, type TextStep } from '../decisions/text.ts';
import { asides } from './asides/asides.ts';
import type { Decided, Detector, Material, Proposal } from './detector.ts';
import { fillers, type PreparedFillers } from './fillers.ts';
import { heard } from './heard.ts';
import { type PreparedPauses, pauses } from './pauses.ts';
import { repeats } from './repeats.ts';
import type { Settings } from './settings.ts';
import { type Spoken, spokenOf } from './spoken.ts';
import { type PreparedTakes, takes } from './takes/takes.ts';

/** Every detector there is. A new one is a file of its own and a line here. */
const DETECTORS: readonly Detector<unknown>[] = [
  pauses as Detector<unknown>,
  fillers as Detector<unknown>,
  repeats as Detector<unknown>,
  heard as Detector<unknown>,
  takes as Detector<unknown>,
  asides as Detector<unknown>,
];

/** Material with what each detector works out once for all settings. */
export interface PreparedMaterial {
  readonly material: Material;
  readonly spoken: Spoken;
  readonly parts: readonly unknown[];
}

export function prepare(material: Material): PreparedMaterial {
  const spoken = spokenOf(material.words, material.language ?? 'en');
  return { material, spoken, parts: DETECTORS.map((detector) => detector.prepare(material, spoken)) };
}

let last: { from: PreparedMaterial; steps: readonly TextStep[]; answer: PreparedMaterial } | undefined;

/** The same with words corrected. What the last corrections came to is kept, since sliders move between them. */
export function reworded(prepared: PreparedMaterial, steps: readonly TextStep[]): PreparedMaterial {
  if (steps.length === 0) return prepared;
  if (last?.from === prepared && last.steps.length === steps.length && last.steps.every((step, k) => step.id === steps[k]?.id))
    return last.answer;
  const spoken = spokenOf(applyText(prepared.material.words, steps), prepared.spoken.language);
  const parts = prepared.parts.map((part, k) => (DETECTORS[k] as Detector<unknown>).reword?.(part, spoken) ?? part);
  last = { from: prepared, steps, answer: { material: prepared.material, spoken, parts } };
  return last.answer;
}

const partOf = <T>({ parts }: PreparedMaterial, detector: Detector<T>): T =>
  parts[DETECTORS.indexOf(detector as Detector<unknown>)] as T;

/** What the pause detector worked out, for those who look at pauses themselves. */
export const preparedPauses = (prepared: PreparedMaterial): PreparedPauses => partOf(prepared, pauses);
export const preparedFillers = (prepared: PreparedMaterial): PreparedFillers => partOf(prepared, fillers);
export const preparedTakes = (prepared: PreparedMaterial): PreparedTakes => partOf(prepared, takes);

/** Proposals of all detectors, in order of time. */
export function detect({ parts }: PreparedMaterial, settings: Settings, decided: Decided): Proposal[] {
  const all = DETECTORS.map((detector, at) => detector.detect(parts[at], settings, decided)).filter((found) => found.length > 0);
  if (all.length === 1) return all[0] as Proposal[];
  return all.flat().sort((a, b) => a.start - b.start || a.end - b.end);
}
