import type { CleanedList } from '@/core/clean/messages.ts';
import { db } from '../db/connection.ts';
import { findEpisode, measuredOf } from '../episodes/episode.ts';
import { optionsOf } from '../handoff/options.ts';
import { enqueue } from '../jobs/jobs.ts';
import { cleanedReport, cleaningKey } from '../media/clean/cleaned.ts';

/** Which recordings of an episode are cleaned as it is chosen, and what was found in them. */
export async function cleanedOf(episodeId: string): Promise<CleanedList> {
  const episode = await findEpisode(episodeId);
  const key = cleaningKey((await optionsOf(episodeId)).cleaning);
  const recordings = await Promise.all(
    measuredOf(episode).map(async ({ fileName, medium }) => ({
      mediaId: medium.id,
      fileName,
      report: (await cleanedReport(medium.id, key)) ?? null,
    })),
  );
  return { key, recordings };
}

/** Has all recordings of an episode cleaned that are not yet. */
export async function askForCleaning(episodeId: string): Promise<void> {
  const { recordings } = await cleanedOf(episodeId);
  const { cleaning } = await optionsOf(episodeId);
  const lacking = new Set(recordings.filter(({ report }) => report === null).map(({ mediaId }) => mediaId));
  await db.transaction(async (trx) => {
    for (const mediaId of lacking) await enqueue(trx, 'clean', mediaId, { cleaning });
  });
}
