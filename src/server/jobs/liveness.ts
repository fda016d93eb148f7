import { makeWorkerUtils, type WorkerEvents } from 'graphile-worker';
import { db } from '../db/connection.ts';
import { log } from '../log.ts';

const BEAT_MS = 2000;
/** A worker that was not heard of for this long is dead, and its jobs go to others. */
const DEAD_AFTER = '10 seconds';

/**
 * Keeps telling the database that this process's workers live, and frees the jobs of those that died: on its own the
 * queue would hold a killed worker's job for hours.
 * @returns a function that stops it
 */
export async function keepAlive(events: readonly WorkerEvents[], connectionString: string): Promise<() => Promise<void>> {
  const own = new Set<string>();
  for (const one of events) {
    one.on('worker:create', ({ worker }) => own.add(worker.workerId));
    one.on('job:start', ({ worker }) => own.add(worker.workerId));
  }
  const utils = await makeWorkerUtils({ connectionString });

  const beat = async () => {
    const seen = [...own].map((worker_id) => ({ worker_id, seen_at: db.fn.now() }));
    if (seen.length > 0) await db('queue_workers').insert(seen).onConflict('worker_id').merge();
    const dead = await db('queue_workers').whereRaw(`seen_at < now() - interval '${DEAD_AFTER}'`).delete().returning('worker_id');
    // Workers that died before their first beat are known by their locks alone.
    const { rows } = await db.raw(
      `select distinct locked_by as worker_id from graphile_worker._private_jobs
       where locked_by is not null and locked_at < now() - interval '${DEAD_AFTER}'
         and locked_by not in (select worker_id from queue_workers)`,
    );
    const names = [...dead, ...rows].map((row) => row.worker_id as string);
    if (names.length === 0) return;
    log.warn({ workers: names }, 'freeing the jobs of workers that died');
    await utils.forceUnlockWorkers(names);
  };

  const timer = setInterval(() => beat().catch((error) => log.warn({ error: error.message }, 'heartbeat failed')), BEAT_MS);
  return async () => {
    clearInterval(timer);
    // Gone on purpose: nobody need take this one for dead.
    await db('queue_workers')
      .whereIn('worker_id', [...own])
      .delete();
    await utils.release();
  };
}
