import { SpeechParts } from '@/core/detect/words/partsOfSpeech.ts';

/** One for a process: whoever asks about words loads it first. */
export const speechParts = new SpeechParts();
