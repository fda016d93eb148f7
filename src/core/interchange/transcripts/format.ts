import type { Seconds } from '../../time/range.ts';
import type { Transcript } from '../../transcript/word.ts';

/** A word as a file has it: with times of its own, or without. */
export interface Token {
  readonly text: string;
  readonly start?: Seconds;
  readonly end?: Seconds;
  /** 0..1 */
  readonly confidence?: number;
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

/** A transcript format: one file of code each. */
export interface TranscriptFormat {
  /** name in addresses, and the file ending without its dot */
  readonly id: string;
  readonly label: string;
  /** what it is for, in a line */
  readonly help: string;
  readonly mime: string;
  /** other endings that files of this format have */
  readonly endings?: readonly string[];
  /** Whether a text looks like this format, for files whose ending says nothing. */
  looksLike(text: string): boolean;
  /** @throws TranscriptError with a line number for a text that is not of this format, or holds no words */
  read(text: string): Promise<RoughTranscript>;
  write(transcript: Transcript): string;
}
