import { type MediaFacts, picturesBeside } from '@/core/contract/media.ts';
import type { EpisodeDetail, EpisodeSummary, JobView, RecordingDetail } from '@/core/contract/messages.ts';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { optionsOf } from '../handoff/options.ts';
import { enqueue, latestJobs } from '../jobs/jobs.ts';
import { enqueueMissing, noticeLost } from '../jobs/missing.ts';
import { findMedium, type Medium } from '../media/media.ts';
import { notFound } from '../refusal.ts';
import { allEpisodes, type EpisodeRecording, findEpisode, firstOf } from './episode.ts';
import { stateOfFile } from './files.ts';
import { readLog } from './log.ts';
import { currentTrouble, summariesOf } from './snapshots.ts';

export async function listEpisodes(): Promise<EpisodeSummary[]> {
  const episodes = await allEpisodes();
  const jobs = await latestJobs(episodes.flatMap(({ recordings }) => recordings.map(({ medium }) => medium.id)));
  const summaries = await summariesOf(episodes);
  return episodes.map((episode) => {
    const { recordings } = episode;
    const { fileName, medium } = firstOf(episode);
    return {
      id: episode.id,
      title: episode.title,
      createdAt: episode.createdAt.toISOString(),
      fileName,
      recordings: recordings.length,
      mediaId: medium.id,
      duration: medium.duration,
      hasVideo: recordings.some((recording) => recording.medium.facts.video !== undefined),
      hasWords: episode.wordsVersion > 0,
      tracks: medium.facts.audio.length,
      measured: medium.measured,
      summary: summaries.get(episode.id)?.summary ?? null,
      isCurrent: summaries.get(episode.id)?.isCurrent ?? false,
      trouble: currentTrouble(episode) ?? null,
      jobs: recordings.flatMap((recording) => jobs.get(recording.medium.id) ?? []),
    };
  });
}

/** An episode as a page opens it. What was measured and is missing counts as not measured, and is queued. */
export async function describeEpisode(id: string): Promise<EpisodeDetail> {
  const found = await findEpisode(id);
  const lost = await Promise.all(found.recordings.map(({ medium }) => noticeLost(medium)));
  const { title, recordings, wordsVersion } = lost.some(Boolean) ? await findEpisode(id) : found;
  const media = recordings.flatMap(({ medium }) => [medium.id, ...picturesBeside(medium.facts).map(({ id }) => id)]);
  const jobs = [...(await latestJobs([...new Set(media)])).values()].flat();
  const [{ centre }, described, log] = await Promise.all([
    optionsOf(id),
    Promise.all(recordings.map((recording) => describeRecording(recording, jobs))),
    readLog(id),
  ]);
  return { id, title, mediaFolder: config.mediaDir !== undefined, centre, recordings: described, jobs, wordsVersion, log };
}

async function describeRecording(
  { id, place, fileName, medium, across }: EpisodeRecording,
  jobs: readonly JobView[],
): Promise<RecordingDetail> {
  const { facts, duration, measured, speech, motion, voice, echoes } = medium;
  const own = jobs.filter(({ mediaId }) => mediaId === medium.id);
  const picture = pictureOf(medium, own);
  const file = await stateOfFile(medium);
  const angles = await describeAngles(facts, jobs);
  const state = { measured, speech, motion, voice, echoes, across: [...across], picture, angles, file };
  return { id, place, fileName, mediaId: medium.id, facts, duration, ...state };
}

async function describeAngles(facts: MediaFacts, jobs: readonly JobView[]): Promise<RecordingDetail['angles']> {
  const angles = await Promise.all(
    picturesBeside(facts).map(async ({ id, name }) => {
      // An episode that came with its recordings alone has no files beside them.
      const medium = await findMedium(id).catch(() => undefined);
      const making = jobs.filter(({ mediaId }) => mediaId === id);
      return medium && { mediaId: id, name, picture: pictureOf(medium, making) };
    }),
  );
  return angles.filter((one) => one !== undefined);
}

function pictureOf({ facts, proxy }: Medium, jobs: readonly JobView[]): RecordingDetail['picture'] {
  if (!facts.video) return 'none';
  if (facts.video.playable) return 'original';
  if (proxy === 'ready') return 'proxy';
  const making = jobs.find((job) => job.kind === 'proxy');
  return making?.state === 'failed' || making?.state === 'cancelled' ? 'failed' : 'pending';
}

export async function renameEpisode(id: string, title: string): Promise<void> {
  const changed = await db('episodes').where({ id, removed_at: null }).update({ title });
  if (!changed) throw notFound('That episode');
  await announce({ type: 'episode', episodeId: id });
}

/** Queues again what could not be measured, or was not to be. */
export async function retryEpisode(id: string): Promise<void> {
  const { recordings } = await findEpisode(id);
  await db.transaction(async (trx) => {
    for (const { medium } of recordings) {
      await enqueueMissing(trx, medium.id);
      for (const { id } of picturesBeside(medium.facts)) {
        const angle = await findMedium(id, trx).catch(() => undefined);
        if (angle?.proxy === 'pending') await enqueue(trx, 'proxy', id);
      }
    }
  });
}
