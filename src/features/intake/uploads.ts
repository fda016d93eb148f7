import { type PreviousUpload, Upload } from 'tus-js-client';
import { createStore } from 'zustand';
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

/** Sends files, one by one or all into one episode, in their order: each is added when those before it are. */
export function bringAll(files: Iterable<File>, target: Target, onAdded: () => void): void {
  let before: Promise<unknown> = Promise.resolve();
  for (const file of files) before = bring(file, async () => target, before, onAdded);
}

/** Goes on with an upload that stopped. */
export function goOn(file: File, uploadId: string, onAdded: () => void): void {
  void bring(file, async () => ({}), Promise.resolve(), onAdded, uploadId);
}

/** Names of the uploads that this page is sending. */
export const sending = (): string[] => [...running.values()].flatMap(({ url }) => url?.split('/').at(-1) ?? []);

/** Sends files that make one new episode. */
export function bringTogether([first, ...more]: readonly File[], onAdded: () => void): void {
  if (!first) return;
  const made = bring(first, async () => ({}), Promise.resolve(), onAdded);
  let before: Promise<unknown> = made;
  for (const file of more)
    before = bring(
      file,
      async () => {
        const episode = await made;
        if (episode === undefined) throw new Error('The recording before it was not taken, so there is no episode to add it to.');
        return { episode };
      },
      before,
      onAdded,
    );
}

/**
 * Sends a file, going on where an earlier try for the same file stopped, and adds it where it is wanted.
 * @param before settles when it may be added
 * @param uploadId what the server has part of; where this browser does not remember it
 * @returns the episode that was made, undefined when none was
 */
function bring(
  file: File,
  target: () => Promise<Target>,
  before: Promise<unknown>,
  onAdded: () => void,
  uploadId?: string,
): Promise<string | undefined> {
  const key = crypto.randomUUID();
  incoming.setState(({ list }) => ({
    list: [...list, { key, name: file.name, bytes: file.size, sent: 0, remaining: null, state: 'sending' }],
  }));
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
    metadata: { filename: file.name },
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
      change(key, { state: 'failed', message: `The upload stopped: ${plain(error)}. Drop the file again to go on.` });
      resolve(undefined);
    },
    onSuccess: async () => {
      await before;
      resolve(await add(key, upload, target, onAdded));
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
async function add(key: string, upload: Upload, target: () => Promise<Target>, onAdded: () => void): Promise<string | undefined> {
  change(key, { state: 'checking' });
  const id = new URL(upload.url ?? '', location.href).pathname.split('/').at(-1) ?? '';
  const wanted = { from: 'upload', upload: id } as const;
  let episode: string | undefined;
  try {
    ({ episode } = await target());
  } catch (error) {
    change(key, { state: 'failed', message: (error as Error).message });
    return undefined;
  }
  for (let tries = 0; ; tries++) {
    try {
      const made = episode === undefined ? await api.create(wanted) : await api.addRecording(episode, wanted);
      dismiss(key);
      onAdded();
      return made.id;
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
