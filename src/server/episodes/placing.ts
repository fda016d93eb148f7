import { randomUUID } from 'node:crypto';
import { type OpenCorrection, openCorrections } from '@/core/align/corrections.ts';
import { type FoundPlace, type PlacedRun, placeIn } from '@/core/align/openRuns.ts';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { replay } from '@/core/decisions/replay.ts';
import { shiftRange, shiftWord } from '@/core/sources/shift.ts';
import { inMillis } from '@/core/time/range.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import type { Transaction } from '../db/connection.ts';
import type { Medium } from '../media/media.ts';
import { placedBy, placersOf, placesBy } from '../media/recognise/placing.ts';
import { findEpisode, onClock, recordingIn } from './episode.ts';
import { append, readLog } from './log.ts';
import { RECOGNISERS } from './recognition.ts';
import { ownWords, readEpisodeWords, silencesIn, soundOf, storeTranscript } from './words.ts';

interface Wanted {
  readonly episodeId: string;
  readonly recordingId: string;
  readonly medium: Medium;
  readonly path: string;
  readonly signal: AbortSignal;
  readonly tell: (share: number) => void;
}

/**
 * Puts the words of a recording under the sound in which they are said, where their times are only estimated. Where they have changed
 * meanwhile, those that are there then are looked for.
 * @param commit keeps what is found
 */
export async function placeWords(
  { episodeId, recordingId, medium, path, signal, tell }: Wanted,
  commit: (work: (trx: Transaction) => Promise<void>) => Promise<void>,
): Promise<void> {
  const silences = medium.measured ? silencesIn(await soundOf(medium)) : undefined;
  for (let isKept = false; !isKept; ) {
    const { recordings, wordsVersion } = await findEpisode(episodeId);
    const recording = recordings.find(({ id }) => id === recordingId);
    if (!recording) return;
    const { words: all, language } = await readEpisodeWords(episodeId);
    const words = ownWords(all, { recordings }, recording);
    const placed = await placedBy(RECOGNISERS, path, medium.facts, words, {
      language,
      recording: recording.fileName,
      silences,
      signal,
      onProgress: tell,
    });
    if (placed === words) return;
    await commit(async (trx) => {
      const row = await trx('episodes').where({ id: episodeId }).forUpdate().first('words_version');
      isKept = row?.words_version === wordsVersion;
      if (!isKept) return;
      const episode = await findEpisode(episodeId);
      await storeTranscript(trx, episode, recordingIn(episode, recordingId), { language, words: placed });
    });
  }
}

/**
 * Looks for the words that corrections wrote, and puts what comes of it into the log. Where more was decided meanwhile, that is looked at too.
 * @param finish told in the transaction in which nothing is left to be looked for
 */
export async function placeCorrections(
  { episodeId, recordingId, medium, path, signal, tell }: Wanted,
  commit: (work: (trx: Transaction) => Promise<void>) => Promise<void>,
  finish: (trx: Transaction) => Promise<void>,
): Promise<void> {
  for (let isDone = false; !isDone; ) {
    const log = await readLog(episodeId);
    const { recordings } = await findEpisode(episodeId);
    const recording = recordings.find(({ id }) => id === recordingId);
    const { words: all, language } = await readEpisodeWords(episodeId);
    const { words, open } = openCorrections(all, replay(log.map(({ event }) => event)).text);
    const clock = recording && onClock(recording);
    const [first, last] = clock && recordings.length > 1 ? wordsIn(words, clock) : [0, words.length];
    const own = open.filter((one) => one.words.every((k) => k >= first && k < last));
    let seq = log.at(-1)?.seq ?? 0;
    if (clock && own.length > 0 && (await placersOf(RECOGNISERS, language)).length > 0) {
      const runs = await placesBy(
        RECOGNISERS,
        path,
        medium.facts,
        words.slice(first, last).map((word) => shiftWord(word, -clock.start)),
        { language, recording: recording.fileName, signal, onProgress: tell },
      );
      const found = own.map((one) => foundOf(one, first, runs, clock.start));
      for (let k = 0; k < found.length; k += MOST_AT_ONCE)
        seq = (await append(episodeId, found.slice(k, k + MOST_AT_ONCE))).at(-1)?.seq ?? seq;
    }
    await commit(async (trx) => {
      const row = await trx('episodes').where({ id: episodeId }).forUpdate().first('last_seq');
      isDone = !row || Number(row.last_seq) === seq;
      if (isDone) await finish(trx);
    });
  }
}

/** Entries that are added at once. */
const MOST_AT_ONCE = 500;

/** What is told of a correction: where all of its words are, or that this cannot be said. */
function foundOf(
  { correction, about, words }: OpenCorrection,
  first: number,
  runs: readonly PlacedRun[],
  by: number,
): DecisionEvent {
  const places = words.flatMap((k): FoundPlace[] => {
    const place = placeIn(runs, k - first);
    return place ? [{ ...place, ...inMillis(shiftRange(place, by)) }] : [];
  });
  // Words most of which are unlike the sound are not what is said there, and were found by chance.
  const isSaid = places.length === words.length && 2 * places.filter(({ isLike }) => isLike).length >= places.length;
  return { id: randomUUID(), type: 'found', correction, about, places: isSaid ? places : [] };
}
