import { stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { titleFor } from '@/core/assemble/handoff.ts';
import { db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { enqueueMissing } from '../jobs/missing.ts';
import { MediaError } from '../media/ffmpeg.ts';
import { pathOfEntry } from '../media/folder.ts';
import { probe } from '../media/probe.ts';
import { contentId, forget, insideMediaFolder, keep, linkedId } from '../media/store.ts';
import { discardUpload, finishedUpload } from '../media/uploads.ts';
import { Refusal } from '../refusal.ts';
import { applySetForNew } from './sets.ts';

/**
 * Makes an episode of a finished upload. Asking again for the same upload gives the same episode, so that a client
 * that lost the answer can repeat the question.
 * @throws Refusal when the file cannot be used; then the upload is gone and nothing is left of it
 */
export async function episodeFromUpload(uploadId: string): Promise<string> {
  const before = await db('episodes').where({ upload_id: uploadId }).first('id');
  if (before) return before.id;
  const { path, name } = await finishedUpload(uploadId);
  try {
    const facts = await probeOrRefuse(path);
    const id = await contentId(path);
    const { size } = await stat(path);
    await keep(path, id);
    const episode = await insert({ id, name: cleanName(name), bytes: size, facts, linkedPath: null, uploadId }).catch(
      async (error) => {
        if (!(await db('media').where({ id }).first('id'))) await forget(id);
        throw error;
      },
    );
    await discardUpload(uploadId);
    return episode;
  } catch (error) {
    if (error instanceof Refusal) await discardUpload(uploadId);
    throw error;
  }
}

/** Makes an episode of a file of the media folder, which stays where it is. */
export async function episodeFromFolder(entry: string): Promise<string> {
  const relative = await pathOfEntry(entry);
  const path = await insideMediaFolder(relative);
  const facts = await probeOrRefuse(path);
  const { size } = await stat(path);
  return insert({ id: await linkedId(path), name: cleanName(basename(relative)), bytes: size, facts, linkedPath: relative });
}

async function probeOrRefuse(path: string) {
  if ((await stat(path)).size === 0) throw new Refusal(422, 'The file is empty.');
  return probe(path).catch((error) => {
    throw error instanceof MediaError ? new Refusal(422, error.message) : error;
  });
}

/**
 * A file name as it may be shown and written into cut lists: the last part of a path, without control characters and
 * without marks that turn the direction of the text round it.
 */
export function cleanName(name: string): string {
  const last = name.split(/[\\/]/).at(-1) ?? '';
  const clean = last
    .replace(/[\p{Cc}\p{Cf}\p{Zl}\p{Zp}]/gu, '')
    .replace(/\s+/g, ' ')
    .trim()
    .slice(-200);
  return /[^.\s]/.test(clean) ? clean : 'recording';
}

interface NewEpisode {
  id: string;
  name: string;
  bytes: number;
  facts: Awaited<ReturnType<typeof probe>>;
  linkedPath: string | null;
  uploadId?: string;
}

async function insert({ id, name, bytes, facts, linkedPath, uploadId }: NewEpisode): Promise<string> {
  return db.transaction(async (trx) => {
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
    const [episode] = await trx('episodes')
      .insert({ title: titleFor(name), upload_id: uploadId ?? null })
      .returning('id');
    await trx('recordings').insert({ episode_id: episode.id, media_id: id, file_name: name });
    await applySetForNew(trx, episode.id);
    await enqueueMissing(trx, id);
    await announce({ type: 'episode', episodeId: episode.id }, trx);
    return episode.id as string;
  });
}
