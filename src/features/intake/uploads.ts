import { type PreviousUpload, Upload } from 'tus-js-client';
import { createStore } from 'zustand';
import type { ChangeTogether } from '@/core/contract/messages.ts';
import type { AskModel } from '@/core/contract/models.ts';
import { ApiError, api } from '../api.ts';

/** A file on its way to the shelf. */
export interface Incoming {
  readonly key: string;
  readonly name: string;
  readonly bytes: number;
  readonly sent: number;
  /** seconds left, once that can be told */
  readonly remaining: number | null;
  readonly state: 'sending' | 'waiting' | 'checking' | 'failed';
  readonly message?: string | undefined;
}

/** Small enough that a broken connection costs little, large enough that requests do not cost more. */
const CHUNK_BYTES = 8_000_000;
const RETRIES = [300, 1000, 2000, 3000, 5000, 5000, 5000, 10_000, 10_000, 10_000, 20_000, 20_000];
const CHECK_RETRY_MS = 1500;
const CHECK_RETRIES = 40;

export const incoming = createStore<{ readonly list: readonly Incoming[] }>(() => ({ list: [] }));

const running = new Map<string, Upload>();
/** what those are told who wait for an upload that is stopped */
const stopped = new Map<string, () => void>();

function change(key: string, values: Partial<Incoming>): void {
  incoming.setState(({ list }) => ({ list: list.map((item) => (item.key === key ? { ...item, ...values } : item)) }));
}

/** Where what was sent goes. */
export type Target = { readonly episode?: string };

/** How a file lies against the recording that it ran together with. */
export type Beside = Pick<Extract<ChangeTogether, { readonly do: 'add' }>, 'recording' | 'by' | 'sound'>;

/** Has the server make something of what was sent. @returns the episode, if one was made */
type Take = (upload: string) => Promise<string | undefined>;

const into =
  ({ episode }: Target): Take =>
  async (upload) => {
    const wanted = { from: 'upload', upload } as const;
    return (await (episode === undefined ? api.create(wanted) : api.addRecording(episode, wanted))).id;
  };

/** Sends files, one by one or all into one episode, in their order: each is added when those before it are. */
export function bringAll(files: Iterable<File>, target: Target, onAdded: () => void): void {
  let before: Promise<unknown> = Promise.resolve();
  for (const file of files) before = bring(file, async () => into(target), before, onAdded);
}

/** Lists a file as one that was not taken, and why. */
export function refuse(file: File, message: string): void {
  list(file, { state: 'failed', message });
}

/** @returns by what it is changed from then on */
function list({ name, size }: File, state: Pick<Incoming, 'state' | 'message'>): string {
  const key = crypto.randomUUID();
  incoming.setState(({ list: before }) => ({
    list: [...before, { key, name, bytes: size, sent: 0, remaining: null, ...state }],
  }));
  return key;
}

/** Goes on with an upload that stopped. */
export function goOn(file: File, uploadId: string, onAdded: () => void): void {
  void bring(file, async () => into({}), Promise.resolve(), onAdded, uploadId);
}

/** Sends a model that hears or tells speakers apart. */
export function bringModel(file: File, about: Pick<AskModel, 'languages' | 'digest'>, onAdded: () => void): void {
  const take: Take = (upload) => api.addModel({ ...about, upload }).then(() => undefined);
  void bring(file, async () => take, Promise.resolve(), onAdded, undefined, { purpose: 'model' });
}

/** Names of the uploads that this page is sending. */
export const sending = (): string[] => [...running.values()].flatMap(({ url }) => url?.split('/').at(-1) ?? []);

/** Sends a file that ran together with a recording of an episode. */
export function bringBeside(file: File, episode: string, about: Beside, onAdded: () => void): void {
  void bring(file, async () => beside(episode, about), Promise.resolve(), onAdded);
}

const beside =
  (episode: string, about: Beside): Take =>
  (upload) =>
    api.changeTogether(episode, { ...about, do: 'add', source: { from: 'upload', upload } }).then(() => undefined);

/** Sends files that ran together: one new episode with one recording, each sound beside the others'. */
export const bringInSync = (files: readonly File[], onAdded: () => void): void =>
  bringAsOne(files, onAdded, async (episode) => {
    const recording = (await api.episode(episode)).recordings[0]?.id ?? '';
    return beside(episode, { recording, by: 'sound', sound: 'beside' });
  });

/** Sends files that make one new episode, one after the other. */
export const bringInARow = (files: readonly File[], onAdded: () => void): void =>
  bringAsOne(files, onAdded, async (episode) => into({ episode }));

/** Makes a new episode of the first file. @param takeInto what takes the others into it, in their order */
function bringAsOne([first, ...more]: readonly File[], onAdded: () => void, takeInto: (episode: string) => Promise<Take>): void {
  if (!first) return;
  const made = bring(first, async () => into({}), Promise.resolve(), onAdded);
  let before: Promise<unknown> = made;
  const taking = async () => {
    const episode = await made;
    if (episode === undefined) throw new Error('The recording before it was not taken, so there is no episode to add it to.');
    return takeInto(episode);
  };
  for (const file of more) before = bring(file, taking, before, onAdded);
}

/**
 * Sends a file, going on where an earlier try for the same file stopped, and has it taken.
 * @param taking what takes it, asked for when it is sent
 * @param before settles when it may be added
 * @param uploadId what the server has part of; where this browser does not remember it
 * @returns the episode that was made, undefined when none was
 */
function bring(
  file: File,
  taking: () => Promise<Take>,
  before: Promise<unknown>,
  onAdded: () => void,
  uploadId?: string,
  about: Readonly<Record<string, string>> = {},
): Promise<string | undefined> {
  const key = list(file, { state: 'sending' });
  let resolve: (episode: string | undefined) => void = () => {};
  const promise = new Promise<string | undefined>((settle) => {
    resolve = settle;
  });
  let startedAt = 0;
  let startedWith = 0;
  const upload = new Upload(file, {
    endpoint: '/api/uploads',
    ...(uploadId !== undefined && { uploadUrl: `/api/uploads/${uploadId}` }),
    chunkSize: CHUNK_BYTES,
    retryDelays: RETRIES,
    metadata: { filename: file.name, ...about },
    removeFingerprintOnSuccess: true,
    onProgress(sent) {
      if (startedAt === 0) {
        startedAt = performance.now();
        startedWith = sent;
      }
      const speed = (sent - startedWith) / ((performance.now() - startedAt) / 1000);
      change(key, { state: 'sending', sent, remaining: speed > 0 ? (file.size - sent) / speed : null });
    },
    onShouldRetry(error) {
      const status = error.originalResponse?.getStatus() ?? 0;
      const again = status === 0 || status >= 500 || status === 409 || status === 423;
      if (again) change(key, { state: 'waiting' });
      startedAt = 0;
      return again;
    },
    onError: (error) => {
      change(key, { state: 'failed', message: `The upload stopped: ${plain(error)}. Bring the file again to go on.` });
      resolve(undefined);
    },
    onSuccess: async () => {
      await before;
      resolve(await add(key, upload, taking, onAdded));
    },
  });
  running.set(key, upload);
  stopped.set(key, () => resolve(undefined));
  if (uploadId !== undefined) {
    upload.start();
    return promise;
  }
  void upload.findPreviousUploads().then((previous: PreviousUpload[]) => {
    if (previous[0]) upload.resumeFromPreviousUpload(previous[0]);
    upload.start();
  });
  return promise;
}

/** Asks the server to take what was sent until it has answered; asking twice takes it once. @returns the episode, if one was made */
async function add(key: string, upload: Upload, taking: () => Promise<Take>, onAdded: () => void): Promise<string | undefined> {
  change(key, { state: 'checking' });
  const id = new URL(upload.url ?? '', location.href).pathname.split('/').at(-1) ?? '';
  let take: Take;
  try {
    take = await taking();
  } catch (error) {
    change(key, { state: 'failed', message: (error as Error).message });
    return undefined;
  }
  for (let tries = 0; ; tries++) {
    try {
      const made = await take(id);
      dismiss(key);
      onAdded();
      return made;
    } catch (error) {
      if (tries < CHECK_RETRIES && !(error instanceof ApiError && error.status < 500)) {
        await new Promise((resolve) => setTimeout(resolve, CHECK_RETRY_MS));
        continue;
      }
      change(key, { state: 'failed', message: (error as Error).message });
      return undefined;
    }
  }
}

/** Stops an upload and forgets what was sent. */
export function stop(key: string): void {
  const upload = running.get(key);
  stopped.get(key)?.();
  dismiss(key);
  void upload?.abort(true).catch(() => {});
}

export function dismiss(key: string): void {
  running.delete(key);
  stopped.delete(key);
  incoming.setState(({ list }) => ({ list: list.filter((item) => item.key !== key) }));
}

const plain = (error: Error) => error.message.split(',')[0]?.replace(/^tus: /, '') ?? 'unknown reason';
