import { Logger, run, type TaskList } from 'graphile-worker';
import { config } from '@/server/config.ts';
import { db } from '@/server/db/connection.ts';
import { forgetOtherCuts } from '@/server/episodes/makeSnapshot.ts';
import { keepAlive } from '@/server/jobs/liveness.ts';
import { enqueueNewCurves } from '@/server/jobs/missing.ts';
import { cutTask, tasksUntil } from '@/server/jobs/tasks.ts';
import { log } from '@/server/log.ts';
import { discardExpired } from '@/server/media/uploads.ts';

/** The queue worker: as many as one likes, on any machine that reaches the database and the media store. */
const CONCURRENT_JOBS = 2;

const shutdown = new AbortController();
const runOn = (taskList: TaskList, concurrency: number) =>
  run({
    connectionString: config.DATABASE_URL,
    concurrency,
    noHandleSignals: true,
    pollInterval: 1000,
    parsedCronItems: [],
    logger: new Logger(
      () => (level, message) => log[level === 'warning' ? 'warn' : level === 'error' ? 'error' : 'debug'](message),
    ),
    taskList,
  });
await forgetOtherCuts().catch((error) => log.warn({ error: (error as Error).message }, 'could not clear old cuts'));
const runners = [await runOn(tasksUntil(shutdown.signal), CONCURRENT_JOBS), await runOn(cutTask, 1)];
const stopKeeping = await keepAlive(
  runners.map(({ events }) => events),
  config.DATABASE_URL,
);
await discardExpired().catch((error) => log.warn({ error: (error as Error).message }, 'could not clear old uploads'));
await enqueueNewCurves().catch((error) => log.warn({ error: (error as Error).message }, 'could not queue what is missing'));
log.info('queue worker ready');

for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, async () => {
    shutdown.abort();
    await Promise.all(runners.map((runner) => runner.stop().catch(() => {})));
    await stopKeeping().catch(() => {});
    await db.destroy();
    process.exit(0);
  });
