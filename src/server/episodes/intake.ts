import { stat } from 'node:fs/promises';
import type { NewRecording } from '@/core/contract/messages.ts';
import { titleFor } from '@/core/outputs/plan/framePlan.ts';
import { nextPlace } from '@/core/sources/recording.ts';
import { db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { enqueueMissing } from '../jobs/missing.ts';
import { episodeFromArchive, isArchive } from '../keeping/archive.ts';
import { cleanName } from '../media/cleanName.ts';
import { pathOfEntry } from '../media/folder.ts';
import type { Needs } from '../media/probe.ts';
import { contentId } from '../media/store.ts';
import { discardUpload, finishedUpload } from '../media/uploads.ts';
import { notFound, Refusal } from '../refusal.ts';
import { insertMedium, linkedFile, type NewFile, probeOrRefuse } from './newMedia.ts';
import { applySetForNew } from './sets.ts';

/**
 * Makes an episode of a finished upload. Asking again for the same upload gives the same episode, so that a client
 * that lost the answer can repeat the question.
 * @throws Refusal when the file cannot be used; then the upload is gone and nothing is left of it
 */
export async function episodeFromUpload(uploadId: string): Promise<string> {
  return orBefore('episodes', uploadId, () =>
    fromUpload(uploadId, async ({ path, name }) => {
      if (await isArchive(path)) return episodeFromArchive(path, uploadId);
      return insertEpisode({ ...(await fileOf(path, name)), uploadId });
    }),
  );
}

/**
 * Does something with a file that was sent, or that lies in the media folder. It may have a picture alone.
 * @throws Refusal when it cannot be used
 */
export async function fileFrom(source: NewRecording, use: (file: NewFile) => Promise<void>): Promise<void> {
  const needs = 'sound or picture';
  if (source.from === 'folder') return use(await fileOfFolder(source.entry, needs));
  await fromUpload(source.upload, async ({ path, name }) => {
    await use(await fileOf(path, name, needs));
    return '';
  });
}

/** Makes an episode of a file of the media folder, which stays where it is. */
export const episodeFromFolder = async (entry: string): Promise<string> => insertEpisode(await fileOfFolder(entry));

/**
 * Adds a recording to an episode: it comes last on the episode clock. Asking again for the same upload adds nothing.
 * @returns the recording's name
 * @throws Refusal when the file cannot be used, or the length of what it comes after is not known yet
 */
export async function recordingFromUpload(episodeId: string, uploadId: string): Promise<string> {
  return orBefore('recordings', uploadId, () =>
    fromUpload(uploadId, async ({ path, name }) => insertRecording(episodeId, { ...(await fileOf(path, name)), uploadId })),
  );
}

export const recordingFromFolder = async (episodeId: string, entry: string): Promise<string> =>
  insertRecording(episodeId, await fileOfFolder(entry));

const UNIQUE_VIOLATION = '23505';

/** What was made of an upload before, here or by another server meanwhile; else what `make` makes. */
async function orBefore(table: 'episodes' | 'recordings', uploadId: string, make: () => Promise<string>): Promise<string> {
  const before = async (): Promise<string | undefined> => (await db(table).where({ upload_id: uploadId }).first('id'))?.id;
  const known = await before();
  if (known) return known;
  try {
    return await make();
  } catch (error) {
    // The other one may have thrown the upload away already.
    const isTaken = (error as { code?: string }).code === UNIQUE_VIOLATION || (error instanceof Refusal && error.status === 404);
    const other = isTaken ? await before() : undefined;
    if (other) return other;
    throw error;
  }
}

type Sent = Awaited<ReturnType<typeof finishedUpload>>;

async function fileOf(path: string, name: string, needs?: Needs): Promise<NewFile> {
  const facts = await probeOrRefuse(path, needs);
  const [id, { size }] = await Promise.all([contentId(path), stat(path)]);
  return { id, name: cleanName(name), bytes: size, facts, linkedPath: null, upload: path };
}

/** Uploads that something is being made of: whoever asks for the same meanwhile gets the same answer. */
const underWay = new Map<string, Promise<string>>();

function fromUpload(uploadId: string, insert: (sent: Sent) => Promise<string>): Promise<string> {
  const known = underWay.get(uploadId);
  if (known) return known;
  const made = makeFromUpload(uploadId, insert).finally(() => underWay.delete(uploadId));
  underWay.set(uploadId, made);
  return made;
}

async function makeFromUpload(uploadId: string, insert: (sent: Sent) => Promise<string>): Promise<string> {
  const sent = await finishedUpload(uploadId);
  try {
    const made = await insert(sent);
    await discardUpload(uploadId);
    return made;
  } catch (error) {
    // What cannot be used is of no use later either; what the episode lacks may come.
    if (error instanceof Refusal && error.status === 422) await discardUpload(uploadId);
    throw error;
  }
}

const fileOfFolder = async (entry: string, needs?: Needs): Promise<NewFile> => linkedFile(await pathOfEntry(entry), needs);

async function insertEpisode({ uploadId, ...file }: NewFile): Promise<string> {
  return db.transaction(async (trx) => {
    await insertMedium(trx, file);
    const [episode] = await trx('episodes')
      .insert({ title: titleFor(file.name), upload_id: uploadId ?? null })
      .returning('id');
    await trx('recordings').insert({ episode_id: episode.id, media_id: file.id, file_name: file.name });
    await applySetForNew(trx, episode.id);
    await enqueueMissing(trx, file.id);
    await announce({ type: 'episode', episodeId: episode.id }, trx);
    return episode.id as string;
  });
}

async function insertRecording(episodeId: string, { uploadId, ...file }: NewFile): Promise<string> {
  return db.transaction(async (trx) => {
    // Two that are added at once must not stand in one place.
    if (!(await trx('episodes').where({ id: episodeId, removed_at: null }).forUpdate().first('id')))
      throw notFound('That episode');
    const known = (await trx('recordings as r')
      .join('media as m', 'm.id', 'r.media_id')
      .where('r.episode_id', episodeId)
      .select('r.place', 'r.position', 'm.duration')) as { place: number; position: number; duration: number }[];
    if (known.some(({ duration }) => duration <= 0))
      throw new Refusal(409, 'How long the recording before it is will be known once it is measured: add this one then.');
    await insertMedium(trx, file);
    const [recording] = await trx('recordings')
      .insert({
        episode_id: episodeId,
        media_id: file.id,
        file_name: file.name,
        position: Math.max(...known.map(({ position }) => position)) + 1,
        place: nextPlace(known.map(({ place, duration }) => ({ start: place, end: place + duration }))),
        upload_id: uploadId ?? null,
      })
      .returning('id');
    await enqueueMissing(trx, file.id);
    await announce({ type: 'episode', episodeId }, trx);
    return recording.id as string;
  });
}
