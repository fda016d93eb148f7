import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import type { Transaction } from '../db/connection.ts';
import { cleanName } from '../media/cleanName.ts';
import { MediaError } from '../media/ffmpeg.ts';
import { type Needs, probe } from '../media/probe.ts';
import { insideMediaFolder, keep, linkedId } from '../media/store.ts';
import { Refusal } from '../refusal.ts';
import { lockMedium } from './removal.ts';

/** A file that a recording is to be made of. */
export interface NewFile {
  id: string;
  name: string;
  bytes: number;
  facts: Awaited<ReturnType<typeof probe>>;
  linkedPath: string | null;
  /** the file that is to be kept in the store */
  upload?: string;
  uploadId?: string;
}

/** A file of the media folder, by its path in that. @throws Refusal when it cannot be used */
export async function linkedFile(relative: string, needs?: Needs): Promise<NewFile> {
  const path = await insideMediaFolder(relative);
  const facts = await probeOrRefuse(path, needs);
  const { size } = await stat(path);
  return { id: await linkedId(path), name: cleanName(basename(relative)), bytes: size, facts, linkedPath: relative };
}

/** What a file holds. @throws Refusal when it cannot be used */
export async function probeOrRefuse(path: string, needs?: Needs) {
  if ((await stat(path)).size === 0) throw new Refusal(422, 'The file is empty.');
  return probe(path, needs).catch((error) => {
    throw error instanceof MediaError ? new Refusal(422, error.message) : error;
  });
}

/** Puts a medium into database and store, if it is not there. */
export async function insertMedium(
  trx: Transaction,
  { id, bytes, facts, linkedPath, upload }: Omit<NewFile, 'uploadId'>,
): Promise<void> {
  // Before anything else: the last episode that used the same content may be forgotten at this moment.
  await lockMedium(trx, id);
  if (upload !== undefined) await keep(upload, id);
  const needsProxy = facts.video !== undefined && !facts.video.playable;
  await trx('media')
    .insert({
      id,
      bytes,
      facts: JSON.stringify(facts),
      linked_path: linkedPath,
      duration: facts.duration,
      proxy: needsProxy ? 'pending' : 'none',
    })
    .onConflict('id')
    .ignore();
}
