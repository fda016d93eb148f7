import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { acrossFile, MEASURE_JOB_NAMES, type MeasureJob, specOfJob } from '@/core/curves/measures.ts';
import { FURTHEST_TRY } from '@/core/curves/passageMatching.ts';
import { db, type Transaction } from '../db/connection.ts';
import { announce } from '../events.ts';
import { log } from '../log.ts';
import { filesFrom, isProxyLost, lostComparisons, lostJobs } from '../media/lost.ts';
import { columnOf, findMedium, isMeasured, type Medium, type MediumRow, mediumOf } from '../media/media.ts';
import { curvesFolder } from '../media/store.ts';
import { enqueue } from './jobs.ts';

/**
 * Queues whatever a medium still lacks, what was measured once and is there no more among it; also used to try again after a
 * failure or a cancel.
 */
export async function enqueueMissing(trx: Transaction, mediaId: string): Promise<void> {
  const row = (await trx('media').where({ id: mediaId }).first()) as MediumRow | undefined;
  if (!row) return;
  const medium = await withoutLost(trx, mediumOf(row));
  if (medium.proxy === 'pending') await enqueue(trx, 'proxy', mediaId);
  // What is only seen, beside a recording, is not measured.
  if (medium.facts.audio.length === 0) return;
  for (const job of MEASURE_JOB_NAMES) {
    const isWanted = !specOfJob(job).ofPicture || medium.facts.video !== undefined;
    if (isWanted && !isMeasured(medium, job) && !isWaiting(medium, job)) await enqueue(trx, job, mediaId);
  }
  if (medium.echoes) await enqueueComparisons(trx, mediaId);
}

/**
 * Queues the comparisons of a medium with those shortly before and behind it in an episode, once both were listened to by themselves:
 * one try may be in one file and the next in another.
 */
async function enqueueComparisons(trx: Transaction, mediaId: string): Promise<void> {
  // Two that end at the same moment must not each miss the other: the second looks when the first is known to all.
  await trx.raw(`select pg_advisory_xact_lock(hashtext('comparisons'))`);
  const { rows } = await trx.raw(
    `select distinct later.media_id as later, earlier.media_id as earlier
     from recordings later
       join recordings earlier on earlier.episode_id = later.episode_id and earlier.place < later.place
       join media l on l.id = later.media_id
       join media e on e.id = earlier.media_id
     where ? in (l.id, e.id) and l.id <> e.id
       and later.place - (earlier.place + e.duration) < ?
       and l.echoes_at is not null and e.echoes_at is not null
       and e.id <> all(l.compared_with)`,
    [mediaId, FURTHEST_TRY],
  );
  for (const { later, earlier } of rows as { later: string; earlier: string }[]) await enqueue(trx, 'across', later, { earlier });
}

/**
 * Notices when what was measured of a medium is missing or cannot be read: then it counts as not measured yet, and is queued.
 * @returns whether anything was lost
 */
export async function noticeLost(medium: Medium): Promise<boolean> {
  const isWhole = (await lostJobs(medium)).length === 0 && (await lostComparisons(medium)).length === 0;
  if (isWhole && !(await isProxyLost(medium))) return false;
  await db.transaction((trx) => enqueueMissing(trx, medium.id));
  await tellEpisodes(medium.id);
  return true;
}

/** Files that have the form of curves, but cannot be made sense of. */
export const discardMeasure = (medium: Medium, job: MeasureJob): Promise<void> => discard(medium, filesFrom(job, medium));

/** The same for the comparison with another medium. */
export const discardComparison = (medium: Medium, from: string): Promise<void> => discard(medium, [`${acrossFile(from)}.ztcv`]);

async function discard(medium: Medium, files: readonly string[]): Promise<void> {
  for (const file of files) await rm(join(curvesFolder(medium.id), file), { force: true });
  await noticeLost(medium);
}

/** What is left of what a medium is known to have when all that is lost is taken away from it. */
async function withoutLost(trx: Transaction, medium: Medium): Promise<Medium> {
  const lost = await lostJobs(medium);
  const comparisons = await lostComparisons(medium);
  const proxy = await isProxyLost(medium);
  if (lost.length === 0 && comparisons.length === 0 && !proxy) return medium;
  log.warn({ media: medium.id, lost, comparisons, proxy }, 'what was measured is missing, and is measured again');
  await trx('media')
    .where({ id: medium.id })
    .update({
      ...Object.fromEntries(lost.map((job) => [columnOf(job), null])),
      compared_with: medium.comparedWith.filter((from) => !comparisons.includes(from)),
      ...(proxy && { proxy: 'pending' }),
    });
  return findMedium(medium.id, trx);
}

/** Tells the pages of all episodes that a medium is part of. */
export async function tellEpisodes(mediaId: string): Promise<void> {
  const rows = await db('recordings')
    .join('media', 'media.id', 'recordings.media_id')
    .where('media.id', mediaId)
    .orWhereRaw(`media.facts->'together' @> ?::jsonb`, [JSON.stringify([{ id: mediaId }])])
    .distinct('episode_id');
  for (const { episode_id } of rows) await announce({ type: 'episode', episodeId: episode_id });
}

/** Whether something that a job comes after, or what that comes after, is not measured yet. */
function isWaiting(medium: Medium, job: MeasureJob): boolean {
  const { after } = specOfJob(job);
  return after !== undefined && (!isMeasured(medium, after) || isWaiting(medium, after));
}

/** Queues what recordings lack: an earlier version, which knew fewer curves, measured them, or what it measured has gone. */
export async function enqueueNewCurves(): Promise<void> {
  const older = await db('media')
    .whereNotNull('measured_at')
    .where((lacking) => lacking.whereNull('voice_at').orWhereNull('echoes_at'))
    .pluck('id');
  const several = await db('recordings').whereRaw('position > 0').distinct().pluck('media_id');
  for (const id of new Set([...older, ...several])) await db.transaction((trx) => enqueueMissing(trx, id));
  for (const id of await db('media').pluck('id')) await noticeLost(await findMedium(id));
}
