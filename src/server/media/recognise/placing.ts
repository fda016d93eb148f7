import pMap from 'p-map';
import { halvesOf, type OpenRun, openRuns, type PlacedRun, type Placing, withPlaces } from '@/core/align/openRuns.ts';
import { isSeamBetter, seamsOf } from '@/core/align/seams.ts';
import type { MediaFacts } from '@/core/contract/media.ts';
import type { Range } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import type { Recogniser } from './recogniser.ts';
import { soundPart } from './soundPart.ts';

/** Seconds of sound in which words are looked for at once. */
export const LONGEST = 24;
/** How often a stretch is parted in which its words are not found: those of another recording are found nowhere. */
const MOST_PARTINGS = 2;
/** Of the time that it takes, the part of the seams between stretches. */
const SEAM_SHARE = 0.15;

interface PlacingOptions {
  readonly language: string;
  readonly recording: string;
  /** where nothing is heard, in order and disjoint */
  readonly silences?: readonly Range[] | undefined;
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
 * Words with the times at which they are found. Those of which nobody can tell keep theirs.
 * @throws RecogniserError where no recogniser can be opened
 */
export async function placedBy(...asked: Parameters<typeof placesBy>): Promise<readonly Word[]> {
  const [, , , words] = asked;
  const found = await placesBy(...asked);
  return found.length === 0 ? words : withPlaces(words, found);
}

/**
 * Looks for words whose times are only estimated in the sound in which they are said, where somebody can tell when given words are said. Several tracks are listened to together: who speaks on which is not known of words that have no times.
 * @param words in order of time
 * @throws RecogniserError where no recogniser can be opened
 */
export async function placesBy(
  recognisers: readonly Recogniser[],
  path: string,
  facts: MediaFacts,
  words: readonly Word[],
  { language, recording, silences, signal, onProgress }: PlacingOptions,
): Promise<readonly PlacedRun[]> {
  const [track, ...more] = facts.audio;
  const runs = openRuns(words, facts.duration, LONGEST);
  const placers = runs.length > 0 ? await placersOf(recognisers, language) : [];
  if (placers.length === 0 || !track) return [];
  const open = await openAny(placers, language);
  const found: PlacedRun[] = [];
  const told = async (run: OpenRun): Promise<Placing | undefined> => {
    const { start } = run.sound;
    const texts = run.places.map((k) => (words[k] as Word).text);
    const placing = await soundPart(path, [track, ...more], run.sound, signal, async (wav) => {
      for (const one of open) {
        const told = await one.place?.({ path: wav, recording, offset: start }, texts, signal);
        if (told) return told;
      }
      return undefined;
    });
    return typeof placing === 'object' ? placing.map((one) => moved(one, start)) : placing;
  };
  const look = async (run: OpenRun, partings: number = MOST_PARTINGS): Promise<void> => {
    const placing = await told(run);
    if (typeof placing === 'object') {
      found.push({ run, placing });
      return;
    }
    // What nobody said as it is written is no reason to give up what stands beside it.
    const halves = partings > 0 ? halvesOf(words, run, facts.duration) : [];
    for (const half of halves) await look(half, partings - 1);
    if (halves.length === 0 && placing) found.push({ run, placing });
  };
  const concurrency = Math.min(...placers.map(({ parallel }) => parallel));
  const seams: PlacedRun[] = [];
  const each = async (all: readonly OpenRun[], tell: (share: number) => void, work: (run: OpenRun) => Promise<void>) => {
    let done = 0;
    const one = async (run: OpenRun) => {
      await work(run);
      tell(++done / all.length);
    };
    await pMap(all, one, { concurrency });
  };
  try {
    await each(runs, (share) => onProgress?.((1 - SEAM_SHARE) * share), look);
    const between = seamsOf(words, found, facts.duration, silences);
    await each(
      between,
      (share) => onProgress?.(1 - SEAM_SHARE * (1 - share)),
      async (run) => {
        const placing = await told(run);
        if (placing && isSeamBetter({ run, placing }, found)) seams.push({ run, placing });
      },
    );
    onProgress?.(1);
  } finally {
    for (const one of open) one.close();
  }
  return [...found, ...seams];
}

/** Those that can be opened: where a model is broken, the next one tells as well. @throws RecogniserError where none can */
async function openAny(placers: readonly Recogniser[], language: string) {
  const opened = await Promise.allSettled(placers.map((placer) => placer.open?.(language)));
  const failed = opened.find((one) => one.status === 'rejected');
  const open = opened.flatMap((one) => (one.status === 'fulfilled' && one.value ? [one.value] : []));
  if (open.length === 0 && failed) throw failed.reason;
  return open;
}

const moved = <T extends { readonly start: number; readonly end: number }>(one: T, by: number): T => ({
  ...one,
  start: one.start + by,
  end: one.end + by,
});
