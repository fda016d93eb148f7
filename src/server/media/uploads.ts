import { mkdirSync } from 'node:fs';
import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import { KEPT_DAYS, type UnfinishedUpload } from '@/core/contract/messages.ts';
import { config } from '../config.ts';
import { Refusal } from '../refusal.ts';
import { roomAt } from '../room.ts';
import { cleanName } from './cleanName.ts';
import { flush, uploadsFolder } from './store.ts';

const UPLOAD_ID = /^[0-9a-f]{32}$/;
const GONE = 'That upload is not here any more; send the file again.';

/** What the server has said that it has is on the disk, and not only on its way there. */
class FlushedStore extends FileStore {
  override async create(upload: Upload): Promise<Upload> {
    const made = await super.create(upload);
    await flush(this.directory);
    return made;
  }

  override async write(readable: Readable, id: string, offset: number): Promise<number> {
    const next = await super.write(readable, id, offset);
    await flush(join(this.directory, id));
    return next;
  }
}

let store: FlushedStore | undefined;
let server: Server | undefined;

function fileStore(): FlushedStore {
  if (!store) {
    mkdirSync(uploadsFolder(), { recursive: true });
    store = new FlushedStore({ directory: uploadsFolder(), expirationPeriodInMilliseconds: KEPT_DAYS.upload * 86_400_000 });
  }
  return store;
}

/** The tus server (resumable upload, tus.io protocol 1.0). */
export function tus(): Server {
  server ??= new Server({
    path: '/api/uploads',
    datastore: fileStore(),
    relativeLocation: true,
    maxSize: config.ZETEMIS_MAX_UPLOAD,
    onResponseError: async (_, error) => {
      // What the protocol has a status for is told by that; nothing of this machine is told with it.
      if ('status_code' in error && error.status_code < 500)
        return { status_code: error.status_code, body: spoken(error.status_code) };
      return (await isFull())
        ? { status_code: 507, body: 'The disk of the server is full. What was sent is kept; go on when there is room.\n' }
        : { status_code: 500, body: 'The upload could not be taken just now. What was sent is kept; try again.\n' };
    },
  });
  return server;
}

const spoken = (status: number): string =>
  status === 404 || status === 410
    ? `${GONE}\n`
    : status === 413
      ? 'That file is larger than is taken here.\n'
      : 'That is no request of this protocol.\n';

const LEAST_ROOM = 16_000_000;

const isFull = async (): Promise<boolean> => (await roomAt(uploadsFolder())) < LEAST_ROOM;

/** @throws Refusal while bytes are missing, or when there is no such upload */
export async function finishedUpload(id: string): Promise<{ path: string; name: string }> {
  if (!UPLOAD_ID.test(id)) throw new Refusal(400, 'That is no upload.');
  const upload = await fileStore()
    .getUpload(id)
    .catch(() => undefined);
  if (!upload) throw new Refusal(404, GONE);
  if (upload.size === undefined || upload.offset < upload.size) throw new Refusal(409, 'The upload is not complete yet.');
  return { path: join(uploadsFolder(), id), name: upload.metadata?.filename ?? 'recording' };
}

/** Recordings that wait for somebody to go on sending them, or to make something of what was sent. */
export async function unfinishedUploads(): Promise<UnfinishedUpload[]> {
  const ids = (await fileStore().configstore.list?.()) ?? [];
  const found = await Promise.all(
    ids.map(async (id): Promise<UnfinishedUpload[]> => {
      if (!UPLOAD_ID.test(id)) return [];
      const upload = await fileStore()
        .getUpload(id)
        .catch(() => undefined);
      const file = await stat(join(uploadsFolder(), id)).catch(() => undefined);
      if (!upload || !file || upload.size === undefined || upload.metadata?.purpose === 'model') return [];
      const idle = Math.max(0, Math.round((Date.now() - file.mtimeMs) / 1000));
      return [{ id, name: cleanName(upload.metadata?.filename ?? ''), bytes: upload.size, received: upload.offset, idle }];
    }),
  );
  return found.flat().sort((a, b) => a.idle - b.idle);
}

export const discardUpload = (id: string): Promise<void> =>
  fileStore()
    .remove(id)
    .catch(() => {});

export const discardExpired = (): Promise<number> => fileStore().deleteExpired();
