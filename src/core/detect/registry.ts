import type { Detector, Material, Proposal } from './detector.ts';
import { type PreparedPauses, pauses } from './pauses.ts';
import type { Settings } from './settings.ts';

/** Every detector there is. A new one is a file of its own and a line here. */
const DETECTORS: readonly Detector<unknown>[] = [pauses as Detector<unknown>];

/** Material with what each detector works out once for all settings. */
export interface PreparedMaterial {
  readonly material: Material;
  readonly parts: readonly unknown[];
}

export const prepare = (material: Material): PreparedMaterial => ({
  material,
  parts: DETECTORS.map((detector) => detector.prepare(material)),
});

/** What the pause detector worked out, for those who look at pauses themselves. */
export const preparedPauses = ({ parts }: PreparedMaterial): PreparedPauses =>
  parts[DETECTORS.indexOf(pauses as Detector<unknown>)] as PreparedPauses;

/** Proposals of all detectors, in order of time. */
export function detect({ parts }: PreparedMaterial, settings: Settings): Proposal[] {
  const all = DETECTORS.map((detector, at) => detector.detect(parts[at], settings));
  return all.length === 1 ? (all[0] as Proposal[]) : all.flat().sort((a, b) => a.start - b.start || a.end - b.end);
}
