import { MEASURE_JOB_NAMES, type MeasureJob, specOfJob } from '@/core/curves/measures.ts';
import { db, type Transaction } from '../db/connection.ts';
import { isMeasured, type Medium, type MediumRow, mediumOf } from '../media/media.ts';
import { enqueue } from './jobs.ts';

/** Queues whatever a medium still lacks; also used to try again after a failure or a cancel. */
export async function enqueueMissing(trx: Transaction, mediaId: string): Promise<void> {
  const row = (await trx('media').where({ id: mediaId }).first()) as MediumRow | undefined;
  if (!row) return;
  const medium = mediumOf(row);
  if (medium.proxy === 'pending') await enqueue(trx, 'proxy', mediaId);
  for (const job of MEASURE_JOB_NAMES) {
    const isWanted = !specOfJob(job).ofPicture || medium.facts.video !== undefined;
    if (isWanted && !isMeasured(medium, job) && !isWaiting(medium, job)) await enqueue(trx, job, mediaId);
  }
}

/** Whether something that a job comes after, or what that comes after, is not measured yet. */
function isWaiting(medium: Medium, job: MeasureJob): boolean {
  const { after } = specOfJob(job);
  return after !== undefined && (!isMeasured(medium, after) || isWaiting(medium, after));
}

/** Queues what recordings lack that were measured by an earlier version, which knew fewer curves. */
export async function enqueueNewCurves(): Promise<void> {
  const older = await db('media')
    .whereNotNull('measured_at')
    .where((lacking) => lacking.whereNull('voice_at').orWhereNull('echoes_at'))
    .select('id');
  for (const { id } of older) await db.transaction((trx) => enqueueMissing(trx, id));
}
