import { createHash, webcrypto } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { link, mkdir, open, realpath, rm, stat } from 'node:fs/promises';
import { join, sep } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { config } from '../config.ts';
import { Refusal } from '../refusal.ts';

const SHA256 = /^[0-9a-f]{64}$/;

/** Whether a text can be the name of a medium. */
export const isMediumId = (id: string): boolean => SHA256.test(id);

/** Folder of one medium: the file itself, its curves, and what was made of it. */
function mediaHome(id: string): string {
  if (!isMediumId(id)) throw new Refusal(404, 'There is no such medium.');
  return join(config.dataDir, 'media', id.slice(0, 2), id);
}

/** Where what was made of a medium lies: its curves, its proxy, parts of its words. */
export const mediumFolder = (id: string): string => mediaHome(id);
export const curvesFolder = (id: string): string => join(mediaHome(id), 'curves');
export const proxyPath = (id: string): string => join(mediaHome(id), 'proxy.mp4');
export const uploadsFolder = (): string => join(config.dataDir, 'uploads');

/** Where the original lies. @throws Refusal when a linked file has gone or left the media folder */
export async function originalPath(id: string, linkedPath: string | null): Promise<string> {
  return linkedPath === null ? join(mediaHome(id), 'original') : insideMediaFolder(linkedPath);
}

/** The real path of a file of the media folder; links that lead out of it are refused. */
export async function insideMediaFolder(relative: string): Promise<string> {
  if (!config.mediaDir) throw new Refusal(409, 'No media folder is set on this server.');
  const root = await realpath(config.mediaDir);
  const path = await realpath(join(root, relative)).catch(() => undefined);
  if (!path?.startsWith(root + sep)) throw new Refusal(404, 'The linked file is no longer in the media folder.');
  return path;
}

export async function contentId(path: string): Promise<string> {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path, { highWaterMark: 1 << 20 }), hash);
  return hash.digest('hex');
}

const SAMPLE_BYTES = 1 << 20;

/**
 * Name for a linked file, which may be huge and on a slow disk: a digest of its size, its date and a megabyte from
 * its start, middle and end. A file that is changed in place becomes another medium.
 */
export async function linkedId(path: string): Promise<string> {
  const { size, mtimeMs } = await stat(path);
  const parts = [Buffer.from(`linked ${size} ${Math.round(mtimeMs)} `)];
  const file = await open(path);
  try {
    for (const at of [0, Math.floor(size / 2), Math.max(0, size - SAMPLE_BYTES)]) {
      const { buffer, bytesRead } = await file.read(Buffer.alloc(SAMPLE_BYTES), 0, SAMPLE_BYTES, at);
      parts.push(buffer.subarray(0, bytesRead));
    }
  } finally {
    await file.close();
  }
  // Beside the thread that answers requests: each opening of an episode asks for it.
  return Buffer.from(await webcrypto.subtle.digest('SHA-256', Buffer.concat(parts))).toString('hex');
}

/** Makes sure that a file, or the names in a folder, are on the disk. */
export async function flush(path: string): Promise<void> {
  const file = await open(path, 'r');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}

/** Puts an uploaded file into the store by a second name, without copying; the upload's own name stays for now. */
export async function keep(path: string, id: string): Promise<void> {
  await mkdir(mediaHome(id), { recursive: true });
  await link(path, join(mediaHome(id), 'original')).catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'EEXIST') throw error;
  });
  await flush(mediaHome(id));
}

/** Removes a folder that a job may write to for a moment more: what it has just written is removed in a further round. */
export const removeFolder = (path: string): Promise<void> =>
  rm(path, { recursive: true, force: true, maxRetries: 8, retryDelay: 50 });

export const forget = (id: string): Promise<void> => removeFolder(mediaHome(id));
