import { overlapOf, overlapWith, type Range, type Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import type { VoicedStretch } from './voices.ts';

/** Words nearer to one another are said in one go. */
const TOGETHER: Seconds = 0.25;
/** Share of a word during which another voice must be heard for it to be said at the same time. */
const OVERLAPPED_SHARE = 0.5;
/** Voices that are heard in a word for equally long, to this, leave it to the one before. */
const EQUAL: Seconds = 0.02;

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

/** Who is heard when. */
export interface Voices {
  /** in order of their starts; those of different voices may overlap */
  readonly voices: readonly VoicedStretch[];
  /** stretches in which two are heard at once, though it was not told which two, in order */
  readonly overlaps: readonly Range[];
}

/** Words with the voice in which each is said as its speaker, and marked where another voice is heard as well. */
export function spokenBy(words: readonly Word[], { voices, overlaps }: Voices, nameOf: (voice: number) => string): Word[] {
  if (voices.length === 0) return [...words];
  let from = 0;
  let latest = Number.NEGATIVE_INFINITY;
  let said: number | undefined;
  return words.map(({ overlapped: _, ...word }) => {
    // Whatever ends before a word begins is behind it; of overlapping ones the last end counts.
    for (let at = from; at < voices.length && Math.max(latest, (voices[at] as VoicedStretch).end) <= word.start; at++) {
      latest = Math.max(latest, (voices[at] as VoicedStretch).end);
      from = at + 1;
    }
    const heard = new Map<number, Seconds>();
    for (let at = from; at < voices.length && (voices[at] as VoicedStretch).start < word.end; at++) {
      const { voice, ...range } = voices[at] as VoicedStretch;
      const share = overlapOf(range, word);
      if (share > 0) heard.set(voice, (heard.get(voice) ?? 0) + share);
    }
    const goesOn = said;
    const weightOf = ([voice, share]: [number, Seconds]) => share + (voice === goesOn ? EQUAL : 0);
    const [most, second] = [...heard].sort((a, b) => weightOf(b) - weightOf(a));
    // A word in nobody's stretch follows the one before it.
    said = most?.[0] ?? (voices[Math.max(0, from - 1)] as VoicedStretch).voice;
    const heardTogether = Math.max(second?.[1] ?? 0, overlapWith(overlaps, word));
    const isOverlapped = heardTogether > 0 && heardTogether >= OVERLAPPED_SHARE * (word.end - word.start);
    return { ...word, speaker: nameOf(said), ...(isOverlapped && { overlapped: true }) };
  });
}
