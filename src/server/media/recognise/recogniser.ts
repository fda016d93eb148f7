import { z } from 'zod';
import type { Placing } from '@/core/align/openRuns.ts';

/** A word as a recogniser heard it, in seconds from the start of what it was given. */
export const recognisedWord = z.object({
  text: z.string().min(1).max(200),
  start: z.number().min(0).max(1e6),
  end: z.number().min(0).max(1e6),
  confidence: z.number().min(0).max(1).default(1),
  speaker: z.string().max(100).optional(),
  /** where it is not measured when it was said; of unknown ones nothing but their order in the part is known */
  timing: z.enum(['estimated', 'unknown']).optional(),
});
export type RecognisedWord = z.infer<typeof recognisedWord>;

/** Sound for a recogniser: a WAV file of 16 kHz, one channel. */
export interface SoundPart {
  readonly path: string;
  /** name of the recording, and where in it the part starts, in seconds */
  readonly recording: string;
  readonly offset: number;
}

/** Languages that are offered where it is not known which ones somebody hears. */
export const COMMON_LANGUAGES: readonly string[] = [
  'en',
  'de',
  'fr',
  'es',
  'it',
  'nl',
  'pt',
  'pl',
  'sv',
  'da',
  'nb',
  'fi',
  'cs',
  'uk',
  'ja',
  'zh',
  'ko',
];

/** What can be said of a recogniser now. */
export interface RecogniserState {
  /** what it is, in a line */
  readonly help: string;
  /** BCP 47 tags that it knows, the first by default */
  readonly languages: readonly string[];
  /** why it cannot be used, fit to show */
  readonly unavailable?: string | undefined;
  /** it can be used, but hears worse than the last resort */
  readonly isPoor?: boolean;
}

/** Hears a part. @throws RecogniserError */
export type Hearing = (part: SoundPart, language: string, signal: AbortSignal | undefined) => Promise<RecognisedWord[]>;

/** A recogniser that holds something while it listens. */
export interface OpenRecogniser {
  readonly recognise: Hearing;
  /** where words are said in a part, in seconds from its start, if it can tell; undefined where it cannot tell of these */
  readonly place?: (part: SoundPart, words: readonly string[], signal: AbortSignal | undefined) => Promise<Placing | undefined>;
  close(): void;
}

/** Something that turns speech into words. Those there are differ in where the work is done. */
export interface Recogniser {
  readonly id: RecogniserId;
  readonly label: string;
  /** parts that it can work on at a time */
  readonly parallel: number;
  /** seconds of sound that it takes at a time, where that is less than usual */
  readonly longest?: number;
  state(): Promise<RecogniserState>;
  recognise: Hearing;
  /** names who hears a language, where that changes: what another heard is no use */
  variant?(language: string): Promise<string>;
  /** whether it can tell when given words are said */
  places?(language: string): Promise<boolean>;
  /** what is to be held while several parts are heard. @throws RecogniserError */
  open?(language: string): Promise<OpenRecogniser>;
}

export const RECOGNISER_IDS = ['model', 'local', 'remote', 'stand-in'] as const;
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
