import type { Transaction } from '../db/connection.ts';
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
  if (!medium.echoes_at) await enqueue(trx, 'echoes', mediaId);
  if (!medium.speech_at) await enqueue(trx, 'speech', mediaId);
}
