import { openRuns, withPlaces } from '@/core/align/openRuns.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import type { Word } from '@/core/transcript/word.ts';
import type { Recogniser } from './recogniser.ts';
import { soundPart } from './soundPart.ts';

/** Seconds of sound that a network goes through at once. */
const LONGEST = 45;
/** How far a word may be off: a frame of such a network is 40 ms, and it says a token somewhere inside it. */
const ERROR = 0.06;

interface PlacingOptions {
  readonly language: string;
  readonly recording: string;
  readonly signal?: AbortSignal | undefined;
  /** told the share that is done, 0..1 */
  readonly onProgress?: ((share: number) => void) | undefined;
}

/**
 * Puts words whose times are only estimated under the sound in which they are said, where the recogniser can tell when given words are said. Words
 * of which it cannot tell keep their times, and so do all where there are several tracks.
 * @param words in order of time
 * @throws RecogniserError where the recogniser cannot be opened
 */
export async function placedBy(
  recogniser: Recogniser,
  path: string,
  facts: MediaFacts,
  words: readonly Word[],
  { language, recording, signal, onProgress }: PlacingOptions,
): Promise<readonly Word[]> {
  const runs = facts.audio.length === 1 ? openRuns(words, facts.duration, LONGEST) : [];
  if (runs.length === 0 || !(await recogniser.places?.(language))) return words;
  const open = await recogniser.open?.(language);
  let placed = words;
  try {
    for (const [k, run] of runs.entries()) {
      const { from, to, sound } = run;
      const texts = words.slice(from, to).map(({ text }) => text);
      const places = await soundPart(path, facts.audio[0] ?? { index: 0 }, sound, signal, async (wav) =>
        open?.place?.({ path: wav, recording, offset: sound.start }, texts, signal),
      );
      const onClock = places?.map(({ start, end }) => ({ start: sound.start + start, end: sound.start + end }));
      if (onClock) placed = withPlaces(placed, run, onClock, ERROR);
      onProgress?.((k + 1) / runs.length);
    }
  } finally {
    open?.close();
  }
  return placed;
}
