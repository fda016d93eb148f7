import type { WorkerEvents } from 'graphile-worker';
import { db } from '../db/connection.ts';
import { log } from '../log.ts';
import * as jobs from './jobs.ts';

const BEAT_MS = 2000;
/** A worker that was not heard of for this long is dead, and its jobs go to others. */
const DEAD_AFTER = '10 seconds';
/** Every so many beats. */
const LOOK_FOR_LOST = 5;
const GIVEN_UP =
  'This was begun many times and never ended: whoever did it stopped on the way. Try again; if that happens again, the file is more than this machine can take.';

/**
 * Keeps telling the database which slots of this process live, and frees the jobs of those that died: on its own the queue
 * would hold a killed worker's job for hours.
 */
export class LivingWorkers {
  private readonly own = new Set<string>();
  private beats = 0;
  private beating: Promise<void> = Promise.resolve();
  private timer: NodeJS.Timeout | undefined;

  /** @returns a function that tells that the slot is given up */
  watch(events: WorkerEvents): () => void {
    const names = new Set<string>();
    const seen = ({ worker }: { worker: { workerId: string } }) => {
      names.add(worker.workerId);
      this.own.add(worker.workerId);
    };
    events.on('worker:create', seen);
    events.on('job:start', seen);
    return () => {
      for (const name of names) this.own.delete(name);
    };
  }

  start(): void {
    this.timer = setInterval(() => {
      this.beating = this.beat().catch((error) => log.warn({ error: (error as Error).message }, 'heartbeat failed'));
    }, BEAT_MS);
  }

  /** Gone on purpose: nobody need take this one for dead. */
  async stop(): Promise<void> {
    clearInterval(this.timer);
    await this.beating;
    await db('queue_workers')
      .whereIn('worker_id', [...this.own])
      .delete();
  }

  private async beat(): Promise<void> {
    const seen = [...this.own].map((worker_id) => ({ worker_id, seen_at: db.fn.now() }));
    if (seen.length > 0) await db('queue_workers').insert(seen).onConflict('worker_id').merge();
    await freeDead();
    if (++this.beats % LOOK_FOR_LOST === 0) await failGivenUp();
  }
}

async function freeDead(): Promise<void> {
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
  await db.raw('select graphile_worker.force_unlock_workers(?::text[])', [names]);
}

/** Jobs that the queue does not hand out any more: they have been begun too often. */
export async function failGivenUp(): Promise<void> {
  const { rows } = await db.raw(
    `select id from jobs where state in ('queued', 'running') and queued_at < now() - interval '${DEAD_AFTER}'
       and not exists (select 1 from graphile_worker._private_jobs p
         where p.payload->>'jobId' = jobs.id::text and (p.attempts < p.max_attempts or p.locked_at is not null))`,
  );
  for (const { id } of rows) await jobs.fail(id, GIVEN_UP);
}
