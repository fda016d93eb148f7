import type { Transaction } from '../db/connection.ts';
import type { Medium } from '../media/media.ts';
import { placedBy } from '../media/recognise/placing.ts';
import { findEpisode, recordingIn } from './episode.ts';
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
