import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server } from '@tus/server';
import { config } from '../config.ts';
import { Refusal } from '../refusal.ts';
import { uploadsFolder } from './store.ts';

/** An upload that nobody went on with for this long is cleared away. */
const EXPIRY_MS = 7 * 24 * 3600 * 1000;
const UPLOAD_ID = /^[0-9a-f]{32}$/;

let store: FileStore | undefined;
let server: Server | undefined;

function fileStore(): FileStore {
  if (!store) {
    mkdirSync(uploadsFolder(), { recursive: true });
    store = new FileStore({ directory: uploadsFolder(), expirationPeriodInMilliseconds: EXPIRY_MS });
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
  });
  return server;
}

/** @throws Refusal while bytes are missing, or when there is no such upload */
export async function finishedUpload(id: string): Promise<{ path: string; name: string }> {
  if (!UPLOAD_ID.test(id)) throw new Refusal(400, 'That is no upload.');
  const upload = await fileStore()
    .getUpload(id)
    .catch(() => undefined);
  if (!upload) throw new Refusal(404, 'That upload is not here any more; send the file again.');
  if (upload.size === undefined || upload.offset < upload.size) throw new Refusal(409, 'The upload is not complete yet.');
  return { path: join(uploadsFolder(), id), name: upload.metadata?.filename ?? 'recording' };
}

export const discardUpload = (id: string): Promise<void> =>
  fileStore()
    .remove(id)
    .catch(() => {});

export const discardExpired = (): Promise<number> => fileStore().deleteExpired();
