import { EventEmitter } from 'node:events';
import { setTimeout as sleep } from 'node:timers/promises';
import { Logger, type Runner, run, type TaskList, type WorkerEvents } from 'graphile-worker';
import pg from 'pg';
import { config } from '../config.ts';
import { GrowingWait } from '../db/outage.ts';
import { log } from '../log.ts';
import type { LivingWorkers } from './liveness.ts';

/** What a slot that has lost the database may take to let go. */
const LET_GO_MS = 2000;

const logger = new Logger(
  () => (level, message) => log[level === 'warning' ? 'warn' : level === 'error' ? 'error' : 'debug'](message),
);

/**
 * One slot of the queue that does one job at a time until `shutdown`. A slot that cannot take a job, or cannot say that one has
 * ended, is given up: another takes its place as soon as the database answers, under another name, so that what the first one
 * held counts as a dead worker's.
 * @returns when the last job has ended
 */
export async function keepSlot(taskList: TaskList, living: LivingWorkers, shutdown: AbortSignal): Promise<void> {
  for (const wait = new GrowingWait(); !shutdown.aborted; ) {
    const events: WorkerEvents = new EventEmitter();
    const broken = new Promise<void>((resolve) => {
      events.once('worker:getJob:error', () => resolve());
      events.once('worker:fatalError', () => resolve());
    });
    const forget = living.watch(events);
    events.on('worker:getJob:empty', () => wait.reset());
    events.on('job:complete', () => wait.reset());
    let runner: Runner | undefined;
    const pgPool = openPool();
    try {
      runner = await run({
        pgPool,
        concurrency: 1,
        noHandleSignals: true,
        pollInterval: 1000,
        parsedCronItems: [],
        logger,
        taskList,
        events,
      });
      const ended = runner.promise.catch(() => {});
      await Promise.race([broken, ended, aborted(shutdown)]);
      const stopped = runner.stop().catch(() => {});
      if (shutdown.aborted) await stopped;
      else await Promise.race([stopped, sleep(LET_GO_MS)]);
    } catch (error) {
      log.warn({ error: (error as Error).message }, 'the queue cannot be reached');
    } finally {
      // One that ends on purpose is told to be gone with all others, and is dead to nobody.
      if (!shutdown.aborted) forget();
      void pgPool.end().catch(() => {});
    }
    if (!shutdown.aborted) await wait.next(shutdown).catch(() => {});
  }
}

/**
 * Connections of a slot. The queue stops listening to its own pool before that has ended, and what the database says in between, as when it
 * is shut down, would end the process.
 */
function openPool(): pg.Pool {
  const pool = new pg.Pool({ connectionString: config.DATABASE_URL });
  const lost = (error: Error) => log.warn({ error: error.message }, 'the queue lost a connection');
  pool.on('error', lost);
  pool.on('connect', (client) => client.on('error', lost));
  return pool;
}

const aborted = (signal: AbortSignal): Promise<void> =>
  new Promise((resolve) => {
    if (signal.aborted) resolve();
    else signal.addEventListener('abort', () => resolve(), { once: true });
  });
