import { db, type Transaction } from '../db/connection.ts';
import { enqueue } from './jobs.ts';

/**
 * Queues whatever a medium still lacks; also used to try again after a failure or a cancel. Curves that refine
 * detection wait for the levels, so that a score can be seen as early as possible.
 */
export async function enqueueMissing(trx: Transaction, mediaId: string): Promise<void> {
  const medium = await trx('media')
    .where({ id: mediaId })
    .first('measured_at', 'proxy', 'speech_at', 'motion_at', 'voice_at', 'echoes_at', 'facts');
  if (!medium) return;
  if (medium.proxy === 'pending') await enqueue(trx, 'proxy', mediaId);
  if (!medium.measured_at) {
    await enqueue(trx, 'measure', mediaId);
    return;
  }
  if (medium.facts.video && !medium.motion_at) await enqueue(trx, 'motion', mediaId);
  if (!medium.voice_at) await enqueue(trx, 'voice', mediaId);
  if (!medium.speech_at) await enqueue(trx, 'speech', mediaId);
  // Where speech begins and ends is known better by then.
  else if (!medium.echoes_at) await enqueue(trx, 'echoes', mediaId);
}

/** Queues what recordings lack that were measured by an earlier version, which knew fewer curves. */
export async function enqueueNewCurves(): Promise<void> {
  const older = await db('media')
    .whereNotNull('measured_at')
    .where((lacking) => lacking.whereNull('voice_at').orWhereNull('echoes_at'))
    .select('id');
  for (const { id } of older) await db.transaction((trx) => enqueueMissing(trx, id));
}
