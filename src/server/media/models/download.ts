import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { dirname } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream as WebStream } from 'node:stream/web';
import { roomAt } from '../../room.ts';
import { MediaError } from '../ffmpeg.ts';

/** A model that is unpacked lies beside its archive for a while. */
const TIMES_ITS_SIZE = 3;
const MOST_BYTES = 20e9;
/** Silence of a server after which it has gone. */
const SILENT_MS = 60_000;
const BROKE_OFF = 'It broke off. What has come is kept: try again to go on.';

export interface Downloading {
  readonly signal?: AbortSignal | undefined;
  /** told the share that has come; undefined while it is not known */
  readonly onShare?: ((share: number | undefined) => void) | undefined;
}

/**
 * Fetches a file. What has come stays when it breaks off, and the next time goes on behind it.
 * @throws MediaError saying what went wrong, AbortError when it was cancelled
 */
export async function download(url: string, to: string, { signal, onShare }: Downloading = {}): Promise<void> {
  const has = await stat(to).then(
    ({ size }) => size,
    () => 0,
  );
  let come = has;
  const silent = new AbortController();
  const stopping = AbortSignal.any([silent.signal, ...(signal ? [signal] : [])]);
  let patience = setTimeout(() => silent.abort(), SILENT_MS);
  const heard = () => {
    clearTimeout(patience);
    patience = setTimeout(() => silent.abort(), SILENT_MS);
  };
  try {
    const answer = await fetch(url, { signal: stopping, ...(has > 0 && { headers: { range: `bytes=${has}-` } }) });
    // All of it is there already.
    if (answer.status === 416) return await answer.body?.cancel();
    if (!answer.ok || !answer.body) throw new MediaError(`The address answered ${answer.status}.`);
    const from = answer.status === 206 ? has : 0;
    const left = Number(answer.headers.get('content-length') ?? Number.NaN);
    const total = from + left;
    if (total > MOST_BYTES) throw new MediaError('What lies there is larger than a model can be.');
    if (Number.isFinite(left)) await checkRoom(to, TIMES_ITS_SIZE * total - from);
    come = from;
    let broke: unknown;
    const counted = async function* (body: WebStream<Uint8Array>) {
      const chunks = body[Symbol.asyncIterator]();
      // An error handed on would end the file before what came last is in it.
      const next = () =>
        chunks.next().catch((error: unknown) => {
          broke = error;
          return { done: true, value: undefined } as const;
        });
      try {
        for (let one = await next(); !one.done; one = await next()) {
          heard();
          come += one.value.length;
          if (come > MOST_BYTES) throw new MediaError('What lies there is larger than a model can be.');
          onShare?.(Number.isFinite(total) ? come / total : undefined);
          yield one.value;
        }
      } finally {
        await chunks.return?.().catch(() => {});
      }
    };
    await pipeline(counted(answer.body as WebStream), createWriteStream(to, { flags: from > 0 ? 'a' : 'w' }));
    if (broke !== undefined) throw broke;
    if (Number.isFinite(total) && come !== total) throw new MediaError(BROKE_OFF);
  } catch (error) {
    if (signal?.aborted) throw new DOMException('adding a model was cancelled', 'AbortError');
    if (error instanceof MediaError || (error as NodeJS.ErrnoException).code === 'ENOSPC') throw error;
    throw new MediaError(come > 0 ? BROKE_OFF : 'The address cannot be reached.');
  } finally {
    clearTimeout(patience);
  }
}

/** @throws MediaError where the disk has no room for so many bytes */
export async function checkRoom(place: string, bytes: number): Promise<void> {
  const missing = bytes - (await roomAt(dirname(place)));
  if (missing > 0) throw new MediaError(`The disk has no room for it: ${Math.ceil(missing / 1e6)} MB are missing.`);
}

/** SHA-256 of a file, in hexadecimal digits. */
export async function digestOf(path: string, signal?: AbortSignal): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash, { signal });
  return hash.digest('hex');
}
