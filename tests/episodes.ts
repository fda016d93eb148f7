import { readFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { Logger, runOnce, type TaskList } from 'graphile-worker';
import { computeHere } from '@/server/compute/computations.ts';
import { computeTasks } from '@/server/compute/computeTasks.ts';
import { config } from '@/server/config.ts';
import { episodeFromUpload } from '@/server/episodes/intake.ts';
import { tasksUntil } from '@/server/jobs/tasks.ts';
import { tus } from '@/server/media/uploads.ts';
import { makeTalk } from './media.ts';

/** Does all jobs of the queue that can be done now. */
export const runJobs = (
  taskList: TaskList = { ...tasksUntil(new AbortController().signal), ...computeTasks(computeHere) },
): Promise<void> =>
  runOnce({ connectionString: config.DATABASE_URL, taskList, noHandleSignals: true, logger: new Logger(() => () => {}) });

/** A request of the upload protocol. */
export const send = (url: string, method: string, headers: Record<string, string>, body?: Uint8Array<ArrayBuffer>) =>
  tus().handleWeb(
    new Request(new URL(url, 'http://127.0.0.1:4620'), {
      method,
      headers: { 'tus-resumable': '1.0.0', ...headers },
      body: body ?? null,
    }),
  );

/** Uploads as a browser does, in two pieces. @returns the upload's name */
export async function upload(path: string, name = basename(path)): Promise<string> {
  const bytes = readFileSync(path);
  const opened = await send('/api/uploads', 'POST', {
    'upload-length': String(bytes.length),
    'upload-metadata': `filename ${Buffer.from(name).toString('base64')}`,
  });
  const place = opened.headers.get('location') ?? '';
  const half = Math.floor(bytes.length / 2);
  const pieces = [
    [0, half],
    [half, bytes.length],
  ] as const;
  for (const [from, to] of bytes.length > 0 ? pieces : [])
    await send(
      place,
      'PATCH',
      { 'upload-offset': String(from), 'content-type': 'application/offset+octet-stream' },
      new Uint8Array(bytes.subarray(from, to)),
    );
  return basename(place);
}

export const bring = async (path: string, name?: string): Promise<string> => episodeFromUpload(await upload(path, name));

/** A new episode of a talk of nine and a half seconds. */
export const bringTalk = (folder: string): Promise<string> => bring(makeTalk(join(folder, 'talk.wav'), [2, 1.5, 3, 1, 2]));
