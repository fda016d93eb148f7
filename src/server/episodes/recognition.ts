import { hasOneTrack } from '@/core/contract/media.ts';
import type { AskRecognition, AskSpeakers, RecogniserList } from '@/core/contract/messages.ts';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { enqueue } from '../jobs/jobs.ts';
import { recogniserOf, recognisersWith } from '../media/recognise/registry.ts';
import { Refusal } from '../refusal.ts';
import { type EpisodeRecording, findEpisode, onClock } from './episode.ts';

/** The recognisers as this server is configured. */
export const RECOGNISERS = recognisersWith({
  url: config.ZETEMIS_RECOGNISER_URL,
  key: config.ZETEMIS_RECOGNISER_KEY,
  form: config.ZETEMIS_RECOGNISER_FORM,
  model: config.ZETEMIS_RECOGNISER_MODEL,
  standInDelay: config.ZETEMIS_STAND_IN_DELAY,
  standInFails: config.ZETEMIS_STAND_IN_FAILS,
});

export async function listRecognisers(): Promise<RecogniserList> {
  const found = await Promise.all(RECOGNISERS.map(async ({ id, label, state }) => ({ id, label, ...(await state()) })));
  // The best comes first.
  return {
    recognisers: [...found.filter(({ isPoor }) => !isPoor), ...found.filter(({ isPoor }) => isPoor)].map(
      ({ id, label, help, languages, unavailable }) => ({
        id,
        label,
        help,
        languages: [...languages],
        unavailable: unavailable ?? null,
      }),
    ),
  };
}

/** Queues the recognising of all recordings of an episode. @throws Refusal when it cannot be done now */
export async function askRecognition(
  episodeId: string,
  { recogniser, language, from = 0, speakers }: AskRecognition,
): Promise<void> {
  const { recordings } = await findEpisode(episodeId);
  if (!recordings.every(({ medium }) => medium.measured)) throw new Refusal(409, 'This recording is still being measured.');
  const why = (await recogniserOf(RECOGNISERS, recogniser).state()).unavailable;
  if (why) throw new Refusal(409, why);
  await db.transaction(async (trx) => {
    const isAhead = (recording: EpisodeRecording) => onClock(recording).end > from;
    // What somebody works on comes first, and in it what they look at.
    for (const recording of [...recordings.filter(isAhead), ...recordings.filter((one) => !isAhead(one))]) {
      const own = Math.max(0, from - onClock(recording).start);
      await enqueue(trx, 'recognise', recording.medium.id, {
        episodeId,
        recording: recording.id,
        recogniser,
        language,
        from: isAhead(recording) ? own : 0,
        speakers,
      });
    }
  });
}

/**
 * Queues telling apart who speaks in the recordings of an episode that have one microphone.
 * @throws Refusal when it cannot be done
 */
export async function askSpeakers(episodeId: string, { count }: AskSpeakers): Promise<void> {
  const { recordings, wordsVersion } = await findEpisode(episodeId);
  if (wordsVersion === 0) throw new Refusal(409, 'There are no words yet whose speakers could be told apart.');
  const shared = recordings.filter(({ medium }) => hasOneTrack(medium.facts));
  if (shared.length === 0) throw new Refusal(409, 'Each track is a speaker of its own here.');
  await db.transaction(async (trx) => {
    for (const { id, medium } of shared) await enqueue(trx, 'speakers', medium.id, { episodeId, recording: id, count });
  });
}
