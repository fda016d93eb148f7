import { type ChildProcess, fork } from 'node:child_process';
import { join } from 'node:path';
import { z } from 'zod';
import { ADDING_STEPS, type AskModel, type ModelList } from '@/core/contract/models.ts';
import { cleanName } from '../media/cleanName.ts';
import { MediaError } from '../media/ffmpeg.ts';
import { removeModel } from '../media/models/addModel.ts';
import { modelsFolder, modelsIn } from '../media/models/models.ts';
import { discardUpload, finishedUpload } from '../media/uploads.ts';
import { Refusal } from '../refusal.ts';
import { roomAt } from '../room.ts';
import { ROOT } from '../root.ts';

const told = z.union([
  z.object({ step: z.enum(ADDING_STEPS), share: z.number().nullable() }),
  z.object({ problem: z.string() }),
  z.object({ done: z.literal(true) }),
]);

const ENTRY = join(ROOT, 'src/workers/model.ts');
/** A process that was told to stop has this long to clear away what it made. */
const STOP_MS = 5000;

let adding: ModelList['adding'] = null;
let child: ChildProcess | undefined;
/** the upload that it is added from */
let taken: string | undefined;

/** Models that are here, and how far the one is that is being added. */
export async function listModels(): Promise<ModelList> {
  const models = await modelsIn();
  return {
    models: models.map(({ card: { name, kind, languages, bytes, pace, wrong, tokenTimes } }) => ({
      ...{ name, kind, languages, bytes, pace, wrong, tokenTimes },
    })),
    room: await roomAt(modelsFolder()),
    adding,
  };
}

/** Where a model comes from, and how that is shown. */
interface Origin {
  readonly source: string;
  readonly called?: string;
  readonly shown: string;
}

/**
 * Begins to add a model, in a process of its own. What was sent for it is forgotten when that has ended. Asking again for the same
 * upload changes nothing, so that a client that lost the answer can repeat the question.
 * @throws Refusal while another is being added, or when what should be sent is not here
 */
export async function beginAdding(wanted: AskModel): Promise<void> {
  const upload = 'upload' in wanted ? wanted.upload : undefined;
  if (child && upload !== undefined && upload === taken) return;
  const from = await originOf(wanted);
  if (child) throw new Refusal(409, 'Another model is being added.');
  const { shown: source } = from;
  const process = fork(ENTRY, [], { execArgv: ['--import', 'tsx'], stdio: ['ignore', 'ignore', 'inherit', 'ipc'] });
  child = process;
  taken = upload;
  let progress: ModelList['adding'] = { source, step: 'fetching', share: null, problem: null };
  const tell = (changed: Partial<NonNullable<ModelList['adding']>>) => {
    if (child !== process) return;
    progress = { source, step: 'fetching', share: null, problem: null, ...progress, ...changed };
    adding = progress;
  };
  tell({});
  process.on('message', (message) => {
    const { data } = told.safeParse(message);
    if (!data) return;
    if ('done' in data) adding = null;
    else tell(data);
  });
  process.on('exit', (code) => {
    if (code) tell({ problem: 'It ended before it was done.' });
    if (child === process) child = undefined;
    if (upload !== undefined) void discardUpload(upload);
  });
  process.send({ source: from.source, called: from.called, languages: wanted.languages, digest: wanted.digest });
}

async function originOf(wanted: AskModel): Promise<Origin> {
  if ('upload' in wanted) {
    const { path, name } = await finishedUpload(wanted.upload);
    return { source: path, called: name, shown: cleanName(name) };
  }
  const { origin, pathname } = new URL(wanted.address);
  // What may be secret is not shown.
  return { source: wanted.address, shown: `${origin}${pathname}` };
}

/** Stops adding, or forgets why it failed. What was fetched is kept. */
export function stopAdding(): void {
  adding = null;
  const process = child;
  child = undefined;
  if (!process) return;
  if (process.connected) process.disconnect();
  setTimeout(() => process.kill('SIGKILL'), STOP_MS).unref();
}

/** @throws Refusal where there is no model of that name */
export async function takeAway(name: string): Promise<void> {
  try {
    await removeModel(name);
  } catch (error) {
    throw error instanceof MediaError ? new Refusal(404, error.message) : error;
  }
}
