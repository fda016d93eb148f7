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
  /** by how much its edges may be off, as the sound says; left out where it was not asked */
  readonly error?: Seconds | undefined;
  /** somebody else on the same microphone speaks as well; left out where nobody does, or it was not heard */
  readonly overlapped?: true | undefined;
}

const SOUNDS =
  '(?:music|laughs?|laughing|laughter|applause|sighs?|coughs?|silence|pause|inaudible|crosstalk|noise|static|blank_audio)';
/** What recognisers and captioners note beside words, in brackets of their own or, by what it is called, in round ones. */
const NOTE = new RegExp(`^(?:\\[.*\\]|\\*.*\\*|[♪♫].*|\\((?:.*\\s)?${SOUNDS}\\))[.,;:]?$`, 'iu');
const SOUND = new RegExp(`(?:^|\\s)${SOUNDS}$`, 'iu');

/** Whether what stands in brackets is called like a sound, and is nobody's name: `upbeat music`. */
export const namesSound = (text: string): boolean => SOUND.test(text);

/** Whether a word was said, and is not a note of what else is heard (`[applause]`, `(upbeat music)`) or a mere sign. */
export const isSaid = (text: string): boolean => startsWithLetter(text) || (/[\p{L}\p{N}]/u.test(text) && !NOTE.test(text));

/** Whether a word closes a sentence by its punctuation. */
export const endsSentence = (text: string): boolean => !endsInLetter(text) && /[.!?…。！？]["'”’)\]]*$/u.test(text);

/** Whether a sign says that more was to come behind a word (`the ...`). */
export const trailsOff = (text: string): boolean => !endsInLetter(text) && /(?:…|\.{2,})["'”’)\]]*$/u.test(text);

/** Whether a sentence stops unfinished behind a word: no sign closes it, or it trails off. */
export const stopsUnfinished = (text: string): boolean => !endsSentence(text) || trailsOff(text);

// Most words begin and end in one, and all of a text are asked at each correction.
const endsInLetter = (text: string): boolean => isLetter(text.charCodeAt(text.length - 1));
const startsWithLetter = (text: string): boolean => isLetter(text.charCodeAt(0));
function isLetter(code: number): boolean {
  const small = code | 0x20;
  return small >= 0x61 && small <= 0x7a;
}

export interface Transcript {
  /** BCP 47 tag, such as `en` */
  readonly language: string;
  /** ordered by start */
  readonly words: readonly Word[];
}

/** A transcript that cannot be used; `message` says where and what to do, and is fit to show. */
export class TranscriptError extends Error {}

/** Longest transcript accepted: two days of talking. More is a mistake or an attack. */
export const MAX_WORDS = 400_000;

/** Largest text of words, in bytes, as it is sent to be read. */
export const MAX_TRANSCRIPT_BYTES = 30_000_000;
