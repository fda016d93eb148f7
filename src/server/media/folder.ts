import { createHash } from 'node:crypto';
import { readdir, stat } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import type { FolderListing } from '@/core/contract/messages.ts';
import { config } from '../config.ts';
import { Refusal } from '../refusal.ts';

const ENDINGS = /\.(wav|flac|mp3|m4a|aac|ogg|oga|opus|mp4|m4v|mov|mkv|mka|webm|aif|aiff|mxf|mts|avi)$/i;
const MOST_ENTRIES = 2000;

/** Media files of the media folder, at most a few thousand. Names stay on the server: an entry is a digest of one. */
export async function listFolder(): Promise<FolderListing> {
  const root = config.mediaDir;
  if (!root) return { entries: [], truncated: false };
  const found = await readdir(root, { recursive: true, withFileTypes: true }).catch(() => {
    throw new Refusal(409, 'The media folder cannot be read.');
  });
  const files = found
    .filter((entry) => entry.isFile() && ENDINGS.test(entry.name))
    .map((entry) => relative(root, join(entry.parentPath, entry.name)))
    .sort();
  const entries = await Promise.all(
    files.slice(0, MOST_ENTRIES).map(async (path) => ({
      entry: entryOf(path),
      path: path.split(sep).join('/'),
      bytes: (await stat(join(root, path)).catch(() => ({ size: 0 }))).size,
    })),
  );
  return { entries, truncated: files.length > MOST_ENTRIES };
}

/** Path of an entry that the listing gave out. */
export async function pathOfEntry(entry: string): Promise<string> {
  const known = (await listFolder()).entries.find((candidate) => candidate.entry === entry);
  if (!known) throw new Refusal(404, 'That file is no longer in the media folder.');
  return known.path;
}

const entryOf = (path: string): string => createHash('sha256').update(path).digest('hex').slice(0, 32);
