import type { DecisionEvent } from './event.ts';

type DistributiveOmit<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;
/** A decision that has no name yet. */
export type NewStep = DistributiveOmit<DecisionEvent, 'id'>;

/** What one entry, and what the whole log of an episode, can come to: places it speaks of, and words it writes. */
export const BOUNDS = {
  entry: { places: 5000, words: 20_000 },
  log: { places: 400_000, words: 400_000 },
} as const;

export interface Weight {
  readonly places: number;
  readonly words: number;
}

const NOTHING: Weight = { places: 0, words: 0 };

export const addWeights = (a: Weight, b: Weight): Weight => ({ places: a.places + b.places, words: a.words + b.words });
export const isWithin = (weight: Weight, most: Weight): boolean => weight.places <= most.places && weight.words <= most.words;

const wordsIn = (text: string): number => text.match(/\S+/g)?.length ?? 0;

/** How much an entry asks of whoever computes with it. */
export function weightOf(event: NewStep): Weight {
  if (event.type === 'correct')
    return event.changes.reduce((sum, { text }) => addWeights(sum, { places: 1, words: wordsIn(text) }), NOTHING);
  if (event.type === 'verdicts' || event.type === 'cuts') return { places: event.abouts.length, words: 0 };
  if (event.type === 'found') return { places: event.places.length, words: 0 };
  if (event.type === 'heard') return { places: event.about.length, words: 0 };
  if (event.type === 'takes')
    return { places: event.about.length + event.groups.reduce((sum, { attempts }) => sum + attempts.length, 0), words: 0 };
  return { places: 1, words: 0 };
}

/** A decision in as many as it takes to keep each within bounds. What is one change is never parted. */
export function withinBounds(step: NewStep): NewStep[] {
  if (isWithin(weightOf(step), BOUNDS.entry)) return [step];
  if (step.type === 'correct')
    return chunks(step.changes, ({ text }) => ({ places: 1, words: wordsIn(text) })).map((changes) => ({ ...step, changes }));
  if (step.type === 'verdicts' || step.type === 'cuts')
    return chunks(step.abouts, () => ({ places: 1, words: 0 })).map((abouts) => ({ ...step, abouts }));
  return [step];
}

function chunks<T>(items: readonly T[], weigh: (item: T) => Weight): T[][] {
  const parts: T[][] = [];
  let sum = NOTHING;
  for (const item of items) {
    const next = addWeights(sum, weigh(item));
    const last = parts.at(-1);
    if (last && isWithin(next, BOUNDS.entry)) {
      last.push(item);
      sum = next;
    } else {
      parts.push([item]);
      sum = weigh(item);
    }
  }
  return parts;
}
