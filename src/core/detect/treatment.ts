import type { Range, Seconds } from '../time/range.ts';
import type { Settings, Treatment } from './settings.ts';

/** What is done with a stretch, and how much of it. */
export interface Treated {
  readonly treatment: Treatment;
  readonly amount: number | undefined;
}

/** The treatment that the settings give a pause of some length. */
export function treatmentOf(length: Seconds, settings: Settings): Treated {
  const { treatment, hurryFrom } = settings;
  return withAmount(treatment === 'hurry' && length < hurryFrom ? 'remove' : treatment, settings);
}

/** A treatment as chosen, with the amount that the settings say. */
export const withAmount = (treatment: Treatment, { shortenTo, hurryRate }: Settings): Treated => ({
  treatment,
  amount: treatment === 'shorten' ? shortenTo : treatment === 'hurry' ? hurryRate : undefined,
});

/**
 * The part that goes: all that may be taken, or, when shortening, as little of it as leaves `amount` seconds of what
 * was found. The rest stays on both sides alike; air is never less than it would be otherwise.
 */
export function treatedRange(found: Range, taken: Range, { treatment, amount }: Treated): Range {
  if (treatment !== 'shorten') return taken;
  const more = Math.max(0, (amount ?? 0) - (found.end - found.start - (taken.end - taken.start))) / 2;
  const middle = (taken.start + taken.end) / 2;
  return { start: Math.min(middle, taken.start + more), end: Math.max(middle, taken.end - more) };
}
