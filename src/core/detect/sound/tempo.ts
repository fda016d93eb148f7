import { sortedQuantile } from '../../numbers/quantile.ts';
import type { Settings } from '../settings.ts';
import type { Rhythm } from './rhythm.ts';

/** Five steps of tightness, loosest first. */
export const TEMPI = ['wide', 'roomy', 'even', 'brisk', 'taut'] as const;
export type Tempo = (typeof TEMPI)[number];

export type TempoSettings = Pick<Settings, 'minPause' | 'airBefore' | 'airAfter' | 'airSentence' | 'shortenTo'>;

interface Step {
  /** share of the speaker's pauses that are shorter than the shortest one taken, and the seconds it stays within */
  readonly shorter: number;
  readonly minPause: readonly [least: number, most: number];
  /** what is left, as a share of what this speaker leaves */
  readonly air: number;
  /** seconds that the air inside a sentence stays within; after a sentence it may reach the upper end as well */
  readonly airWithin: readonly [least: number, most: number];
}

const STEPS: Readonly<Record<Tempo, Step>> = {
  wide: { shorter: 0.85, minPause: [0.9, 3], air: 1.5, airWithin: [0.3, 0.7] },
  roomy: { shorter: 0.7, minPause: [0.6, 1.4], air: 1.15, airWithin: [0.2, 0.5] },
  even: { shorter: 0.5, minPause: [0.4, 0.8], air: 0.8, airWithin: [0.14, 0.34] },
  brisk: { shorter: 0.3, minPause: [0.25, 0.5], air: 0.5, airWithin: [0.09, 0.22] },
  taut: { shorter: 0.1, minPause: [0.15, 0.3], air: 0.28, airWithin: [0.05, 0.12] },
};
/** More of the air follows a word than precedes one: sounds die away, but start at once. */
const AFTER_SHARE = 0.6;
/** After a sentence this share of the speaker's own pause is what a listener needs. */
const SENTENCE_SHARE = 0.6;

/**
 * Settings of one step for a speaker: the shortest pause is a quantile of how long they pause, the air a share of what
 * they leave inside a sentence and after one. Each step is tighter than the one before in all of them.
 */
export function tempoSettings(tempo: Tempo, { lengths, known, inside, sentence }: Rhythm): TempoSettings {
  const { shorter, minPause, air, airWithin } = STEPS[tempo];
  const left = clamp(inside * air, ...airWithin);
  const airAfter = left * AFTER_SHARE;
  return {
    minPause: roundTo(known ? clamp(sortedQuantile(lengths, shorter), ...minPause) : minPause[0], 0.05),
    airAfter: roundTo(airAfter, 0.01),
    airBefore: roundTo(left - airAfter, 0.01),
    airSentence: roundTo(clamp(sentence * SENTENCE_SHARE * air, airAfter, airWithin[1]), 0.01),
    shortenTo: roundTo(clamp(sentence * air, left, airWithin[1] * 2), 0.05),
  };
}

/** The settings of all steps for a speaker. */
export const tempoSteps = (rhythm: Rhythm): Readonly<Record<Tempo, TempoSettings>> =>
  Object.fromEntries(TEMPI.map((tempo) => [tempo, tempoSettings(tempo, rhythm)])) as Record<Tempo, TempoSettings>;

/** The step whose settings are the present ones, if any. */
export const tempoOf = (settings: Settings, steps: Readonly<Record<Tempo, TempoSettings>>): Tempo | undefined =>
  TEMPI.find((tempo) => {
    const wanted = steps[tempo];
    return (Object.keys(wanted) as (keyof TempoSettings)[]).every((name) => wanted[name] === settings[name]);
  });

const clamp = (value: number, least: number, most: number): number => Math.max(least, Math.min(most, value));
const roundTo = (value: number, step: number): number => Math.round(Math.round(value / step) * step * 1000) / 1000;
