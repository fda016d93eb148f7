import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, rename, rm, stat, utimes } from 'node:fs/promises';
import { dirname } from 'node:path';
import { PassThrough } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { contentId } from '../media/store.ts';

/** Something that was kept is not what was to be kept, or cannot be put where it is wanted; `message` is fit to show. */
export class KeepingError extends Error {}

/**
 * Copies a file, unless one of its size and date is there. What was copied is read back and compared.
 * @returns whether anything was copied
 * @throws KeepingError when what was written is not what was read
 */
export async function copyVerified(from: string, to: string): Promise<boolean> {
  const { size, mtime } = await stat(from);
  const known = await stat(to).catch(() => undefined);
  if (known?.size === size && Math.abs(known.mtimeMs - mtime.getTime()) < 2) return false;
  await mkdir(dirname(to), { recursive: true });
  const work = `${to}.part`;
  const hash = createHash('sha256');
  const passing = new PassThrough();
  passing.on('data', (chunk) => hash.update(chunk));
  await pipeline(createReadStream(from, { highWaterMark: 1 << 20 }), passing, createWriteStream(work, { flush: true }));
  const read = hash.digest('hex');
  if ((await contentId(work)) !== read) {
    await rm(work, { force: true });
    throw new KeepingError(`${to} could not be written as it was read.`);
  }
  await utimes(work, mtime, mtime);
  await rename(work, to);
  return true;
}
