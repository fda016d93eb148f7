import { z } from 'zod';
import type { Range, Seconds } from '../time/range.ts';

/**
 * A spoken word. `measured` timing comes from listening to the word itself, `estimated` from sharing out a longer
 * stretch, and guards more loosely.
 */
export interface Word extends Range {
  readonly text: string;
  readonly start: Seconds;
  readonly end: Seconds;
  /** 0..1: how sure the recogniser was of the text */
  readonly confidence: number;
  readonly speaker: string;
  readonly timing: 'measured' | 'estimated';
}

/** Whether a word closes a sentence by its punctuation. */
export const endsSentence = (text: string): boolean => !endsInLetter(text) && /[.!?…。！？]["'”’)\]]*$/u.test(text);

/** Most words do, and all of a text are asked at each correction. */
function endsInLetter(text: string): boolean {
  const last = text.charCodeAt(text.length - 1) | 0x20;
  return last >= 0x61 && last <= 0x7a;
}

export interface Transcript {
  /** BCP 47 tag, such as `en` */
  readonly language: string;
  /** ordered by start */
  readonly words: readonly Word[];
}

/** A transcript that cannot be used; `message` says where and what to do, and is fit to show. */
export class TranscriptError extends Error {}

/** Longest transcript accepted: about a week of talking. More is a mistake or an attack. */
export const MAX_WORDS = 1_000_000;
const MAX_SECONDS = 1_000_000;

/** Recognisers round and pad, so that a first word may start a moment before the recording does. */
const seconds = z
  .number()
  .min(-1)
  .max(MAX_SECONDS)
  .transform((at) => Math.max(0, at));

const wordInput = z.object({
  text: z.string().max(200),
  start: seconds,
  end: seconds,
  confidence: z.number().min(0).max(1).default(1),
  speaker: z.string().max(100).default(''),
  timing: z.enum(['measured', 'estimated']).default('measured'),
});

const transcriptInput = z.object({
  language: z.string().min(1).max(35).default('en'),
  words: z.array(wordInput).max(MAX_WORDS),
});

/**
 * Reads our own transcript JSON: `{ language, words: [{ text, start, end, confidence?, speaker?, timing? }] }`.
 * Words are put in order of start; blank words are dropped.
 * @throws TranscriptError naming the first word that is wrong
 */
export function readTranscript(json: string): Transcript {
  let value: unknown;
  try {
    value = JSON.parse(json.replace(/^\uFEFF/, ''));
  } catch (error) {
    throw new TranscriptError(`The transcript is not JSON: ${(error as Error).message}`);
  }
  const parsed = transcriptInput.safeParse(value);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    const where = issue?.path.length ? ` at ${issue.path.join('.')}` : '';
    throw new TranscriptError(`The transcript does not fit${where}: ${issue?.message ?? 'unknown form'}`);
  }
  const words: Word[] = [];
  for (const [index, word] of parsed.data.words.entries()) {
    if (word.end < word.start)
      throw new TranscriptError(`Word ${index + 1} (${JSON.stringify(word.text)}) ends before it starts.`);
    const text = word.text.trim();
    // Whole milliseconds, as they travel to the browser: the same words must give the same cut list everywhere.
    if (text) words.push({ ...word, text, start: Math.round(word.start * 1000) / 1000, end: Math.round(word.end * 1000) / 1000 });
  }
  words.sort((a, b) => a.start - b.start || a.end - b.end);
  return { language: parsed.data.language, words };
}
