import pMap from 'p-map';
import { halvesOf, type OpenRun, openRuns, type Placing, withPlaces } from '@/core/align/openRuns.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import type { Word } from '@/core/transcript/word.ts';
import type { Recogniser } from './recogniser.ts';
import { soundPart } from './soundPart.ts';

/** Seconds of sound in which words are looked for at once. */
export const LONGEST = 24;
/** How often a stretch is parted in which its words are not found: those of another recording are found nowhere. */
const MOST_PARTINGS = 2;

interface PlacingOptions {
  readonly language: string;
  readonly recording: string;
  readonly signal?: AbortSignal | undefined;
  /** told the share that is done, 0..1 */
  readonly onProgress?: ((share: number) => void) | undefined;
}

/** Who can tell when given words of a language are said, in their order. */
export async function placersOf(recognisers: readonly Recogniser[], language: string): Promise<readonly Recogniser[]> {
  const can = await Promise.all(recognisers.map(({ places }) => places?.(language)));
  return recognisers.filter((_, k) => can[k]);
}

/** Whether there is anything to be looked for. */
export const hasOpenWords = (words: readonly Word[], { audio, duration }: MediaFacts): boolean =>
  audio.length > 0 && openRuns(words, duration, LONGEST).length > 0;

/**
 * Puts words whose times are only estimated under the sound in which they are said, where somebody can tell when given words are said. Words
 * of which nobody can tell keep their times. Several tracks are listened to together: who speaks on which is not known of words that have no times.
 * @param words in order of time
 * @throws RecogniserError where the recogniser cannot be opened
 */
export async function placedBy(
  recognisers: readonly Recogniser[],
  path: string,
  facts: MediaFacts,
  words: readonly Word[],
  { language, recording, signal, onProgress }: PlacingOptions,
): Promise<readonly Word[]> {
  const [track, ...more] = facts.audio;
  const runs = openRuns(words, facts.duration, LONGEST);
  const placers = runs.length > 0 ? await placersOf(recognisers, language) : [];
  if (placers.length === 0 || !track) return words;
  const open = await Promise.all(placers.map((placer) => placer.open?.(language)));
  const found: { readonly run: OpenRun; readonly placing: Placing }[] = [];
  let done = 0;
  const look = async (run: OpenRun, partings = MOST_PARTINGS): Promise<void> => {
    const { start } = run.sound;
    const texts = run.places.map((k) => (words[k] as Word).text);
    const placing = await soundPart(path, [track, ...more], run.sound, signal, async (wav) => {
      for (const one of open) {
        const told = await one?.place?.({ path: wav, recording, offset: start }, texts, signal);
        if (told) return told;
      }
      return undefined;
    });
    if (typeof placing === 'object') {
      found.push({ run, placing: placing.map((one) => moved(one, start)) });
      return;
    }
    // What nobody said as it is written is no reason to give up what stands beside it.
    const halves = partings > 0 ? halvesOf(words, run, facts.duration) : [];
    for (const half of halves) await look(half, partings - 1);
    if (halves.length === 0 && placing) found.push({ run, placing });
  };
  try {
    await pMap(
      runs,
      async (run) => {
        await look(run);
        onProgress?.(++done / runs.length);
      },
      { concurrency: Math.min(...placers.map(({ parallel }) => parallel)) },
    );
  } finally {
    for (const one of open) one?.close();
  }
  return found.length === 0 ? words : withPlaces(words, found);
}

const moved = <T extends { readonly start: number; readonly end: number }>(one: T, by: number): T => ({
  ...one,
  start: one.start + by,
  end: one.end + by,
});
