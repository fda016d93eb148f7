import type { EpisodeDetail, EpisodeSummary, JobView } from '@/core/contract/messages.ts';
import { db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { latestJobs } from '../jobs/jobs.ts';
import { enqueueMissing } from '../jobs/missing.ts';
import type { Medium } from '../media/media.ts';
import { forget } from '../media/store.ts';
import { notFound } from '../refusal.ts';
import { summaryOf } from './cut.ts';
import { episodeOf, findEpisode, type Row, withRecording } from './episode.ts';
import { readLog } from './log.ts';

export async function listEpisodes(): Promise<EpisodeSummary[]> {
  const episodes = ((await withRecording().orderBy('e.created_at', 'desc')) as Row[]).map(episodeOf);
  const jobs = await latestJobs(episodes.map((episode) => episode.medium.id));
  return Promise.all(
    episodes.map(async (episode) => ({
      id: episode.id,
      title: episode.title,
      createdAt: episode.createdAt.toISOString(),
      fileName: episode.fileName,
      mediaId: episode.medium.id,
      duration: episode.medium.duration,
      hasVideo: episode.medium.facts.video !== undefined,
      hasWords: episode.wordsVersion > 0,
      tracks: episode.medium.facts.audio.length,
      measured: episode.medium.measured,
      summary: episode.medium.measured ? await summaryOf(episode) : null,
      jobs: jobs.get(episode.medium.id) ?? [],
    })),
  );
}

export async function describeEpisode(id: string): Promise<EpisodeDetail> {
  const { title, fileName, wordsVersion, medium } = await findEpisode(id);
  const jobs = (await latestJobs([medium.id])).get(medium.id) ?? [];
  return {
    id,
    title,
    fileName,
    mediaId: medium.id,
    facts: medium.facts,
    duration: medium.duration,
    measured: medium.measured,
    speech: medium.speech,
    motion: medium.motion,
    voice: medium.voice,
    echoes: medium.echoes,
    picture: pictureOf(medium, jobs),
    jobs,
    wordsVersion,
    log: await readLog(id),
  };
}

function pictureOf({ facts, proxy }: Medium, jobs: readonly JobView[]): EpisodeDetail['picture'] {
  if (!facts.video) return 'none';
  if (facts.video.playable) return 'original';
  if (proxy === 'ready') return 'proxy';
  const making = jobs.find((job) => job.kind === 'proxy');
  return making?.state === 'failed' || making?.state === 'cancelled' ? 'failed' : 'pending';
}

export async function renameEpisode(id: string, title: string): Promise<void> {
  const changed = await db('episodes').where({ id }).update({ title });
  if (!changed) throw notFound('That episode');
  await announce({ type: 'episode', episodeId: id });
}

/** Queues again what could not be measured, or was not to be. */
export async function retryEpisode(id: string): Promise<void> {
  const { medium } = await findEpisode(id);
  await db.transaction((trx) => enqueueMissing(trx, medium.id));
}

/** Removes an episode, and its media when no other episode uses it. A linked file itself is never touched. */
export async function removeEpisode(id: string): Promise<void> {
  const { medium } = await findEpisode(id);
  const unused = await db.transaction(async (trx): Promise<boolean> => {
    await trx('episodes').where({ id }).delete();
    await announce({ type: 'episode', episodeId: id }, trx);
    const removed = await trx('media')
      .where({ id: medium.id })
      .whereNotExists(trx('recordings').where('media_id', medium.id).select(trx.raw('1')))
      .delete();
    return removed > 0;
  });
  if (unused) await forget(medium.id);
}
