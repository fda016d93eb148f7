import type { RoughTranscript } from '../../transcript/roughTranscript.ts';
import type { Transcript } from '../../transcript/word.ts';

/** A form in which transcripts are read. */
export interface TranscriptReader {
  /** Whether a text looks like this form, for files whose ending says nothing. */
  looksLike(text: string): boolean;
  /** @throws TranscriptError with a line number for a text that is not of this form, or holds no words */
  read(text: string): Promise<RoughTranscript>;
}

/** A transcript format: one file of code each. */
export interface TranscriptFormat extends TranscriptReader {
  /** name in addresses, and the file ending without its dot */
  readonly id: string;
  readonly label: string;
  /** what it is for, in a line */
  readonly help: string;
  readonly mime: string;
  /** other endings that files of this format have */
  readonly endings?: readonly string[];
  write(transcript: Transcript): string;
}
