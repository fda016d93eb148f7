import type { Seconds } from '../time/range.ts';
import type { Word } from './word.ts';

/** A word as a file has it: with times of its own, or without. */
export interface Token {
  readonly text: string;
  readonly start?: Seconds;
  readonly end?: Seconds;
  /** 0..1 */
  readonly confidence?: number;
  /** where a file says how its times came about, by how much they may be off, and that somebody else speaks as well */
  readonly timing?: Word['timing'];
  readonly error?: Seconds | undefined;
  readonly overlapped?: true | undefined;
}

/** A line of a transcript, or a cue, or a paragraph. */
export interface Passage {
  readonly speaker: string;
  /** when it is spoken; plain text does not say */
  readonly start?: Seconds;
  readonly end?: Seconds;
  readonly tokens: readonly Token[];
}

/** What a file says, before words without times of their own get them. */
export interface RoughTranscript {
  /** BCP 47 tag, when the file says it */
  readonly language?: string;
  readonly passages: readonly Passage[];
  /** what was left out and why, with line numbers, fit to show */
  readonly notes: readonly string[];
}

/** The words alone, and who says them. */
export const withoutTimes = ({ passages, ...rough }: RoughTranscript): RoughTranscript => ({
  ...rough,
  passages: passages.map(({ speaker, tokens }) => ({ speaker, tokens: tokens.map(({ text }) => ({ text })) })),
});
