import type { Range, Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import type { VoicedStretch } from './voices.ts';

/** Words nearer to one another are said in one go. */
const TOGETHER: Seconds = 0.25;

/** Stretches of speech that words make, parted where somebody pauses. */
export function stretchesOf(words: readonly Word[]): Range[] {
  const stretches: { start: number; end: number }[] = [];
  for (const { start, end } of words) {
    const last = stretches.at(-1);
    if (last && start - last.end < TOGETHER) last.end = Math.max(last.end, end);
    else stretches.push({ start, end });
  }
  return stretches;
}

/** Words with the voice in which each is said as its speaker. */
export function spokenBy(words: readonly Word[], voices: readonly VoicedStretch[], nameOf: (voice: number) => string): Word[] {
  let at = 0;
  return words.map((word) => {
    const middle = (word.start + word.end) / 2;
    while (at + 1 < voices.length && (voices[at] as VoicedStretch).end <= middle) at++;
    const voice = voices[at]?.voice;
    return voice === undefined ? word : { ...word, speaker: nameOf(voice) };
  });
}
