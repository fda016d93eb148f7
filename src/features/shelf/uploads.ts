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

function change(key: string, values: Partial<Incoming>): void {
  incoming.setState(({ list }) => ({ list: list.map((item) => (item.key === key ? { ...item, ...values } : item)) }));
}

/** Sends a file, going on where an earlier try for the same file stopped, and makes an episode of it. */
export function bring(file: File, onEpisode: () => void): void {
  const key = crypto.randomUUID();
  incoming.setState(({ list }) => ({
    list: [...list, { key, name: file.name, bytes: file.size, sent: 0, remaining: null, state: 'sending' }],
  }));
  let startedAt = 0;
  let startedWith = 0;
  const upload = new Upload(file, {
    endpoint: '/api/uploads',
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
    onError: (error) =>
      change(key, { state: 'failed', message: `The upload stopped: ${plain(error)}. Drop the file again to go on.` }),
    onSuccess: () => void check(key, upload, onEpisode),
  });
  running.set(key, upload);
  void upload.findPreviousUploads().then((previous: PreviousUpload[]) => {
    if (previous[0]) upload.resumeFromPreviousUpload(previous[0]);
    upload.start();
  });
}

/** Asks for an episode until the server has answered; asking twice makes one. */
async function check(key: string, upload: Upload, onEpisode: () => void): Promise<void> {
  change(key, { state: 'checking' });
  const id = new URL(upload.url ?? '', location.href).pathname.split('/').at(-1) ?? '';
  for (let tries = 0; ; tries++) {
    try {
      await api.create({ from: 'upload', upload: id });
      dismiss(key);
      onEpisode();
      return;
    } catch (error) {
      if (tries < CHECK_RETRIES && !(error instanceof ApiError && error.status < 500)) {
        await new Promise((resolve) => setTimeout(resolve, CHECK_RETRY_MS));
        continue;
      }
      change(key, { state: 'failed', message: (error as Error).message });
      return;
    }
  }
}

/** Stops an upload and forgets what was sent. */
export function stop(key: string): void {
  const upload = running.get(key);
  dismiss(key);
  void upload?.abort(true).catch(() => {});
}

export function dismiss(key: string): void {
  running.delete(key);
  incoming.setState(({ list }) => ({ list: list.filter((item) => item.key !== key) }));
}

const plain = (error: Error) => error.message.split(',')[0]?.replace(/^tus: /, '') ?? 'unknown reason';
