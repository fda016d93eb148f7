import { constants, setPriority } from 'node:os';
import { ComputeProcess } from '@/server/compute/computeProcess.ts';
import { computeTasks } from '@/server/compute/computeTasks.ts';
import { db } from '@/server/db/connection.ts';
import { outlast } from '@/server/db/outage.ts';
import { forgetOtherCuts } from '@/server/episodes/makeSnapshot.ts';
import { LivingWorkers } from '@/server/jobs/liveness.ts';
import { enqueueNewCurves } from '@/server/jobs/missing.ts';
import { keepSlot } from '@/server/jobs/runner.ts';
import { tasksUntil } from '@/server/jobs/tasks.ts';
import { log } from '@/server/log.ts';
import { sweep } from '@/server/sweep.ts';

/** The queue worker: as many as one likes, on any machine that reaches the database and the media store. */
const CONCURRENT_JOBS = 2;
const SWEEP_MS = 3_600_000;

// Whoever looks at a page on a machine with few cores goes first. What this starts goes after them, too.
setPriority(constants.priority.PRIORITY_LOW);

const shutdown = new AbortController();
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => shutdown.abort());

const atStart = (what: string, work: () => Promise<unknown>) =>
  outlast(work, shutdown.signal).catch((error) => log.warn({ error: (error as Error).message }, what));

// A database that is away is waited for.
await atStart('could not clear old cuts', forgetOtherCuts);
const living = new LivingWorkers();
living.start();
const computing = new ComputeProcess();
const tasks = tasksUntil(shutdown.signal);
const slots = [
  ...Array.from({ length: CONCURRENT_JOBS }, () => keepSlot(tasks, living, shutdown.signal)),
  keepSlot(computeTasks(computing.compute), living, shutdown.signal),
];
const sweeping = () => atStart('could not clear away what is old', sweep);
void sweeping();
const hourly = setInterval(sweeping, SWEEP_MS);
void atStart('could not queue what is missing', enqueueNewCurves);
log.info('queue worker ready');

await Promise.all(slots);
clearInterval(hourly);
computing.close();
await living.stop().catch(() => {});
await db.destroy();
process.exit(0);
