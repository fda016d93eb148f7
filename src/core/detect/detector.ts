import type { Sound } from '../sources/placedSound.ts';
import type { Recording } from '../sources/recording.ts';
import type { Range } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import type { Calibration } from './calibration/calibration.ts';
import type { ProposalKind } from './kinds.ts';
import type { Settings, Treatment } from './settings.ts';
import type { DecidedTakes } from './takes/decidedTakes.ts';
import type { SpeechParts } from './words/partsOfSpeech.ts';
import type { Spoken } from './words/spoken.ts';

/** A computed suggestion. It is never stored: only what a person decides about it is. */
export interface Proposal extends Range {
  readonly id: string;
  readonly kind: ProposalKind;
  /**
   * What was found, before air was left at its sides. Decisions are matched on this, since it stays put while air
   * is tuned.
   */
  readonly found: Range;
  /** what a removal would take: found less its air. Shortening takes less of it, to `start` and `end`. */
  readonly taken: Range;
  readonly treatment: Treatment;
  /** seconds kept when shortened, times the speed when hurried */
  readonly amount?: number | undefined;
  /** 0..1 */
  readonly confidence: number;
  readonly group?: string;
  /** the numbers that led to it; the interface words them */
  readonly evidence: Readonly<Record<string, number>>;
}

/** All that detection looks at. */
export interface Material extends Sound {
  /** what stands on the clock, in order; one recording from 0 to `duration` when left out */
  readonly recordings?: readonly Recording[] | undefined;
  /** ordered by start; empty when there is no transcript */
  readonly words: readonly Word[];
  /** BCP 47 tag of the words, English when left out */
  readonly language?: string | undefined;
  /** level of the loudest track at each moment, where it is worked out once for all who ask */
  readonly loudest?: (() => Uint8Array) | undefined;
  /** what tells parts of speech; needed by all that look at words */
  readonly speechParts?: SpeechParts | undefined;
  /** how evidence becomes probability; as it ships when left out */
  readonly calibration?: Calibration | undefined;
}

/** What a person has laid out that detectors start from. */
export interface Decided {
  readonly takes: readonly DecidedTakes[];
  /** recordings that were taken out of the episode */
  readonly removed: readonly string[];
}

/**
 * Finds proposals of one kind. `prepare` does what no setting changes, once; `detect` runs at each step of a slider
 * and must be quick.
 */
export interface Detector<Prepared> {
  readonly kind: ProposalKind;
  /** the settings that its answer depends on, and nothing else: where they are the same, so is the answer */
  readonly reads: readonly (keyof Settings)[];
  /** whether its answer depends on what a person has laid out as well */
  readonly readsDecided?: true;
  /** whether it compares recordings with one another; the others look at each recording by itself */
  readonly scope?: 'episode';
  /**
   * `at once` looks at no words' meaning and answers before anything else is there; `slow` takes longer than a hand waits once
   * the text has changed, so that in a hurry the answer to the text before stands in.
   */
  readonly speed?: 'at once' | 'slow';
  prepare(material: Material, spoken: () => Spoken): Prepared;
  /** The same after words were corrected, which changes their text and no time; left out by those who read no text. */
  reword?(prepared: Prepared, spoken: Spoken): Prepared;
  /** @returns proposals in order of time, none overlapping another */
  detect(prepared: Prepared, settings: Settings, decided: Decided): Proposal[];
}

/** Named by its milliseconds: the same moments give the same name on every machine. */
export const proposalId = (kind: ProposalKind, found: Range): string =>
  `${kind}-${Math.round(found.start * 1000)}-${Math.round(found.end * 1000)}`;
