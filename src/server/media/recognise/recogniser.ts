import { z } from 'zod';

/** A word as a recogniser heard it, in seconds from the start of what it was given. */
export const recognisedWord = z.object({
  text: z.string().min(1).max(200),
  start: z.number().min(0).max(1e6),
  end: z.number().min(0).max(1e6),
  confidence: z.number().min(0).max(1).default(1),
  speaker: z.string().max(100).optional(),
});
export type RecognisedWord = z.infer<typeof recognisedWord>;

/** Sound for a recogniser: a WAV file of 16 kHz, one channel. */
export interface SoundPart {
  readonly path: string;
  /** name of the recording, and where in it the part starts, in seconds */
  readonly recording: string;
  readonly offset: number;
}

/** Something that turns speech into words. The three there are differ in where the work is done. */
export interface Recogniser {
  readonly id: RecogniserId;
  readonly label: string;
  /** what it is, in a line */
  readonly help: string;
  /** BCP 47 tags that it knows, the first by default */
  readonly languages: readonly string[];
  /** parts that it can work on at a time */
  readonly parallel: number;
  /** why it cannot be used now, fit to show; undefined when it can */
  unavailable(): Promise<string | undefined>;
  /** @throws RecogniserError */
  recognise(part: SoundPart, language: string, signal: AbortSignal | undefined): Promise<RecognisedWord[]>;
}

export const RECOGNISER_IDS = ['local', 'remote', 'stand-in'] as const;
export type RecogniserId = (typeof RECOGNISER_IDS)[number];

/** A part that was not recognised; `message` is fit to show. */
export class RecogniserError extends Error {
  constructor(
    message: string,
    /** whether asking again may help */
    readonly again: boolean,
  ) {
    super(message);
  }
}
