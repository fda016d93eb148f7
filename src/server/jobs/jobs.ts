import type { JobView } from '@/core/contract/messages.ts';
import { db, type Transaction } from '../db/connection.ts';
import { announce } from '../events.ts';
import { Refusal } from '../refusal.ts';

export type JobKind = JobView['kind'];

interface JobRow {
  id: string;
  kind: JobKind;
  media_id: string;
  state: JobView['state'];
  progress: number;
  error: string | null;
  started_at: Date | null;
  tries: number;
  /** a render writes files of its own */
  options: { readonly render?: string } | null;
}

/** What refines an answer waits for what gives one; higher comes later. */
const LATER: Partial<Record<JobKind, number>> = {
  voice: 5,
  echoes: 6,
  across: 6,
  recognise: 7,
  place: 7,
  corrections: 7,
  render: 8,
  clean: 8,
  speech: 10,
  motion: 10,
};

/** A job is begun anew when its worker died; one that has killed so many is given up. */
const MOST_BEGINNINGS = 12;

/** Progress under this says too little for a remaining time. */
const LEAST_TOLD = 0.03;

/** What of a job is shown. */
type ShownRow = Omit<JobRow, 'tries' | 'options'>;

function view(row: ShownRow): JobView {
  const spent = row.started_at ? (Date.now() - row.started_at.getTime()) / 1000 : 0;
  const told = row.state === 'running' && row.progress > LEAST_TOLD;
  return {
    id: row.id,
    kind: row.kind,
    mediaId: row.media_id,
    state: row.state,
    progress: row.progress,
    remaining: told ? Math.round((spent / row.progress) * (1 - row.progress)) : null,
    error: row.error,
  };
}

/** Puts a job into the queue in the caller's transaction, unless the same is under way for the medium. */
export async function enqueue(trx: Transaction, kind: JobKind, mediaId: string, options: object = {}): Promise<void> {
  const asked = JSON.stringify(options);
  const { rows } = await trx.raw(
    `insert into jobs (kind, media_id, options) values (?, ?, ?::jsonb)
     on conflict (kind, media_id, md5(options::text)) where state in ('queued', 'running') do nothing returning *`,
    [kind, mediaId, asked],
  );
  const [row] = rows as JobRow[];
  if (!row) return;
  await handOut(trx, row);
  await announce({ type: 'job', job: view(row) }, trx);
}

async function handOut(trx: Transaction, { id, kind, media_id: mediaId, options }: JobRow, afterSeconds = 0): Promise<void> {
  // A cancelled job takes a moment to notice: its successor, which writes the same files, must wait for it to end.
  const files = options?.render ?? mediaId;
  await trx.raw(
    `select graphile_worker.add_job(?, json_build_object('jobId', ?::text), queue_name => ?, max_attempts => ${MOST_BEGINNINGS},
       priority => ?, run_at => now() + ? * interval '1 second')`,
    [kind, id, `${kind} ${files}`, LATER[kind] ?? 0, afterSeconds],
  );
}

/**
 * Puts a job off that was stopped by what may soon be over, and says why it waits.
 * @returns false when it has been begun so often that it is given up
 */
export async function putOff(jobId: string, why: string, afterSeconds: number, mostTries: number): Promise<boolean> {
  return db.transaction(async (trx) => {
    const row = (await trx('jobs').where({ id: jobId, state: 'running' }).forUpdate().first()) as JobRow | undefined;
    if (!row) return true;
    if (row.tries >= mostTries) return false;
    await change(jobId, ['running'], { state: 'queued', progress: 0, error: why }, trx);
    await handOut(trx, row, afterSeconds);
    return true;
  });
}

/** The newest job of each kind for some media. Renders are of an episode, and listed with it. */
export async function latestJobs(mediaIds: readonly string[]): Promise<Map<string, JobView[]>> {
  const rows = (await db('jobs')
    .distinctOn('media_id', 'kind')
    .select('id', 'kind', 'media_id', 'state', 'progress', 'error', 'started_at')
    .whereIn('media_id', [...mediaIds])
    .whereNot({ kind: 'render' })
    .orderBy(['media_id', 'kind', { column: 'queued_at', order: 'desc' }])) as ShownRow[];
  const byMedia = new Map<string, JobView[]>();
  for (const row of rows) byMedia.set(row.media_id, [...(byMedia.get(row.media_id) ?? []), view(row)]);
  return byMedia;
}

/** The newest job of each render. */
export async function renderJobs(renders: readonly string[]): Promise<Map<string, JobView>> {
  const rows = (await db('jobs')
    .where({ kind: 'render' })
    .whereRaw(`options->>'render' = any(?)`, [[...renders]])
    .orderBy('queued_at')) as JobRow[];
  return new Map(rows.map((row) => [row.options?.render ?? '', view(row)]));
}

/** What a job was asked to do beside its kind. */
export async function optionsOf(jobId: string): Promise<unknown> {
  return (await db('jobs').where({ id: jobId }).first('options'))?.options;
}

/** A started job, or undefined when it was cancelled or done before. */
export async function start(jobId: string): Promise<JobView | undefined> {
  return change(jobId, ['queued', 'running'], {
    state: 'running',
    progress: 0,
    started_at: new Date(),
    error: null,
    tries: db.raw('tries + 1') as unknown as number,
  });
}

/** Tells progress. @returns false when the job is no longer wanted */
export async function progress(jobId: string, share: number): Promise<boolean> {
  return (await change(jobId, ['running'], { progress: Math.min(1, share) })) !== undefined;
}

/** Ends a job in the caller's transaction, so that its result and its state become true together. */
export async function finish(trx: Transaction, jobId: string): Promise<void> {
  await change(jobId, ['running'], { state: 'done', progress: 1 }, trx);
}

export async function fail(jobId: string, error: string): Promise<void> {
  await change(jobId, ['queued', 'running'], { state: 'failed', error });
}

/** The worker stopped on purpose: the queue will hand the job out again. */
export async function putBack(jobId: string): Promise<void> {
  await change(jobId, ['running'], { state: 'queued', progress: 0 });
}

export async function cancel(jobId: string): Promise<void> {
  const job = await change(jobId, ['queued', 'running'], { state: 'cancelled' });
  if (!job) throw new Refusal(409, 'That job has ended already.');
}

async function change(
  id: string,
  from: readonly JobView['state'][],
  values: Partial<JobRow>,
  trx: Transaction | typeof db = db,
): Promise<JobView | undefined> {
  const [row] = (await trx('jobs')
    .where({ id })
    .whereIn('state', [...from])
    .update(values)
    .returning('*')) as JobRow[];
  if (!row) return undefined;
  const job = view(row);
  await announce({ type: 'job', job }, trx);
  return job;
}
