import { statfs } from 'node:fs/promises';
import { dirname } from 'node:path';

/** Bytes of room on the disk that a folder lies on, or will lie on once it is made. */
export async function roomAt(folder: string): Promise<number> {
  const about = await statfs(folder).catch(() => undefined);
  if (about) return about.bavail * about.bsize;
  return dirname(folder) === folder ? 0 : roomAt(dirname(folder));
}
