import { randomUUID } from 'node:crypto';
import { createReadStream, createWriteStream } from 'node:fs';
import { mkdir, mkdtemp, open, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { extract, pack } from 'tar-stream';
import { z } from 'zod';
import { mediaFacts } from '@/core/contract/media.ts';
import { transcriptColumns } from '@/core/contract/wordColumns.ts';
import { type DecisionEvent, decisionEvent } from '@/core/decisions/event.ts';
import { handoffOptions } from '@/core/outputs/messages.ts';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { findEpisode } from '../episodes/episode.ts';
import { insertEntries } from '../episodes/log.ts';
import { insertMedium } from '../episodes/newMedia.ts';
import { askCut } from '../episodes/snapshots.ts';
import { announce } from '../events.ts';
import { optionsOf } from '../handoff/options.ts';
import { illFormedText } from '../http/body.ts';
import { enqueue } from '../jobs/jobs.ts';
import { enqueueMissing } from '../jobs/missing.ts';
import { cleanName } from '../media/cleanName.ts';
import { findMedium, type Medium } from '../media/media.ts';
import { contentId, originalPath } from '../media/store.ts';
import { Refusal } from '../refusal.ts';

// An episode as one file: a tar archive (POSIX.1-2001) of manifest.json, log.ndjson, words.json and media/ID, in this order.

export const ARCHIVE_FORMAT = 'zetemis.episode/1';
export const ARCHIVE_ENDING = '.zetemis.tar';

const keptMedium = z.object({
  id: z.string().regex(/^[0-9a-f]{64}$/),
  bytes: z.number().nonnegative(),
  facts: mediaFacts,
  duration: z.number().nonnegative().max(86_400),
  /** whether the file is in the archive; else whoever brings it in must have it */
  included: z.boolean(),
});

const manifest = z.object({
  format: z.literal(ARCHIVE_FORMAT),
  madeAt: z.string(),
  title: z.string().min(1).max(200),
  recordings: z
    .array(
      z.object({
        id: z.uuid(),
        place: z.int().nonnegative(),
        fileName: z.string().max(300),
        media: keptMedium,
      }),
    )
    .min(1)
    .max(100),
  /** files that ran together, which recordings were made of; older archives have none, and a recording does without */
  beside: z.optional(z.array(keptMedium).max(1000)),
  /** what is chosen about handing over; older archives have none */
  handoff: z.optional(handoffOptions),
});
type Manifest = z.infer<typeof manifest>;

/** The names of entries are not trusted, and no entry of text is larger than this. */
const MOST_TEXT = 200_000_000;

/** What a recording was made of, where that is still here. */
async function partsOf({ facts }: Medium): Promise<Medium[]> {
  const parts = (facts.together ?? []).map(({ id }) => findMedium(id).catch(() => undefined));
  return (await Promise.all(parts)).filter((one) => one !== undefined);
}

/** An episode as a stream of one file. @param withMedia whether the recordings themselves are in it, and the files that they were made of */
export async function archiveOf(episodeId: string, withMedia: boolean): Promise<{ title: string; stream: Readable }> {
  const episode = await findEpisode(episodeId);
  const rows = await db('decisions').where({ episode_id: episodeId }).orderBy('seq').select('event', 'by', 'at');
  const words = await db('transcripts').where({ episode_id: episodeId }).first('columns');
  const own = episode.recordings.map(({ medium }) => medium);
  const parts = (await Promise.all(own.map(partsOf))).flat();
  const media = [...new Map([...own, ...parts].map((medium) => [medium.id, medium])).values()];
  const paths = await Promise.all(media.map(({ id, linkedPath }) => originalPath(id, linkedPath)));
  const kept = ({ id, bytes, facts, duration }: Medium) => ({ id, bytes, facts, duration, included: withMedia });
  const about: Manifest = {
    format: ARCHIVE_FORMAT,
    madeAt: new Date().toISOString(),
    title: episode.title,
    handoff: await optionsOf(episodeId),
    recordings: episode.recordings.map(({ id, place, fileName, medium }) => ({
      id,
      place,
      fileName,
      media: kept(medium),
    })),
    ...(parts.length > 0 && { beside: media.slice(new Set(own.map(({ id }) => id)).size).map(kept) }),
  };
  const tar = pack();
  const write = async () => {
    const text = (name: string, content: string) =>
      new Promise<void>((resolve, reject) => tar.entry({ name }, content, (error) => (error ? reject(error) : resolve())));
    await text('manifest.json', `${JSON.stringify(about, null, 2)}\n`);
    await text('log.ndjson', rows.map((row) => `${JSON.stringify(row)}\n`).join(''));
    await text('words.json', JSON.stringify(words?.columns ?? null));
    for (const [k, { id }] of withMedia ? media.entries() : []) {
      const path = paths[k] as string;
      const { size } = await stat(path);
      await pipeline(createReadStream(path), tar.entry({ name: `media/${id}`, size }));
    }
    tar.finalize();
  };
  write().catch((error) => tar.destroy(error as Error));
  // Its streams are of a kind of their own.
  return { title: episode.title, stream: Readable.from(tar as unknown as AsyncIterable<Uint8Array>) };
}

/** Whether a file begins as an archive of an episode does. */
export async function isArchive(path: string): Promise<boolean> {
  const file = await open(path);
  try {
    const { buffer } = await file.read(Buffer.alloc(512), 0, 512, 0);
    return buffer.toString('latin1', 0, 14) === 'manifest.json\0' && buffer.toString('latin1', 257, 262) === 'ustar';
  } finally {
    await file.close();
  }
}

const logLine = z.object({ event: decisionEvent, by: z.string().max(100).nullable(), at: z.iso.datetime({ offset: true }) });

/**
 * Makes an episode of an archive, on this server or another: with names of its own, so that it can stand beside the one it was made of.
 * @param uploadId of the upload that it came by
 * @returns the episode's name
 * @throws Refusal when the archive is damaged, of another version, or lacks a file that is not here either
 */
export async function episodeFromArchive(path: string, uploadId: string | null = null): Promise<string> {
  await mkdir(config.dataDir, { recursive: true });
  const folder = await mkdtemp(join(config.dataDir, 'archive-'));
  try {
    const { about, events, words } = await unpack(path, folder).catch((error) => {
      if (error instanceof Refusal || (error as NodeJS.ErrnoException).code === 'ENOSPC') throw error;
      throw new Refusal(422, `The archive is damaged or cut short: ${(error as Error).message}`);
    });
    return await insert(about, folder, words, events, uploadId);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function unpack(path: string, folder: string) {
  const texts: Partial<Record<'manifest.json' | 'log.ndjson' | 'words.json', string>> = {};
  const found = new Set<string>();
  const reader = extract();
  const reading = pipeline(createReadStream(path), reader);
  // Whoever reads the entries is told the same.
  reading.catch(() => {});
  for await (const entry of reader) {
    const { name, size = 0 } = entry.header;
    const medium = /^media\/([0-9a-f]{64})$/.exec(name)?.[1];
    if (name === 'manifest.json' || name === 'log.ndjson' || name === 'words.json') {
      if (size > MOST_TEXT) throw new Refusal(422, `The archive holds too much text (${name}).`);
      texts[name] = await textOf(entry);
    } else if (medium && !found.has(medium)) {
      found.add(medium);
      await pipeline(entry, createWriteStream(join(folder, medium), { flush: true }));
    } else entry.resume();
  }
  await reading;
  const about = manifest.safeParse(JSON.parse(texts['manifest.json'] ?? 'null'));
  if (!about.success)
    throw new Refusal(422, `This is no archive that this version reads.\n${z.prettifyError(about.error).slice(0, 500)}`);
  const lines = (texts['log.ndjson'] ?? '').split('\n').filter(Boolean);
  const events = lines.map((line) => logLine.parse(JSON.parse(line)));
  const words = z.nullable(transcriptColumns).parse(JSON.parse(texts['words.json'] ?? 'null'));
  if (illFormedText([about.data, events, words]) !== undefined)
    throw new Refusal(422, 'The archive holds text that cannot be kept.');
  for (const { fileName, media } of about.data.recordings) {
    const isKnown = (await db('media').where({ id: media.id }).first('id')) !== undefined;
    if (!found.has(media.id) && !isKnown)
      throw new Refusal(422, `${cleanName(fileName)} is not in the archive, and not on this server: bring it in first.`);
    if (found.has(media.id) && media.id !== (await contentId(join(folder, media.id))))
      // Of a linked file the name is made of samples: then the file gets the name of its content below.
      Object.assign(media, { id: await renameByContent(folder, media.id) });
  }
  const names = new Map<string, string>();
  for (const media of about.data.beside ?? []) {
    if (!found.has(media.id) || (await db('media').where({ id: media.id }).first('id'))) continue;
    if (media.id === (await contentId(join(folder, media.id)))) continue;
    const id = await renameByContent(folder, media.id);
    names.set(media.id, id);
    Object.assign(media, { id });
  }
  const nameOf = (id: string) => names.get(id) ?? id;
  for (const { media } of about.data.recordings)
    for (const part of media.facts.together ?? []) Object.assign(part, { id: nameOf(part.id), linkedPath: null });
  const named = events.map(({ event, ...more }) => ({
    ...more,
    event: event.type === 'angle' ? { ...event, angle: nameOf(event.angle) } : event,
  }));
  return { about: about.data, events: named, words };
}

async function renameByContent(folder: string, name: string): Promise<string> {
  const id = await contentId(join(folder, name));
  await rename(join(folder, name), join(folder, id));
  return id;
}

async function textOf(entry: AsyncIterable<unknown>): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of entry) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString('utf8');
}

async function insert(
  about: Manifest,
  folder: string,
  words: unknown,
  log: readonly z.infer<typeof logLine>[],
  uploadId: string | null,
): Promise<string> {
  return db.transaction(async (trx) => {
    const [episode] = await trx('episodes')
      .insert({
        title: about.title,
        upload_id: uploadId,
        words_version: words === null ? 0 : 1,
        handoff: about.handoff ? JSON.stringify(about.handoff) : null,
      })
      .returning('id');
    // Files that ran together come before what was made of them.
    for (const { id, bytes, facts } of about.beside ?? []) {
      const path = join(folder, id);
      const isThere = (await stat(path).catch(() => undefined)) !== undefined;
      if (isThere) await insertMedium(trx, { id, name: id, bytes, facts, linkedPath: null, upload: path });
      const { proxy } = (await trx('media').where({ id }).first('proxy')) ?? {};
      if (proxy === 'pending') await enqueue(trx, 'proxy', id);
    }
    const recordings = new Map<string, string>();
    for (const [position, { id, place, fileName, media }] of about.recordings.entries()) {
      const path = join(folder, media.id);
      const isThere = (await stat(path).catch(() => undefined)) !== undefined;
      await insertMedium(trx, {
        id: media.id,
        name: fileName,
        bytes: media.bytes,
        facts: media.facts,
        linkedPath: null,
        ...(isThere && { upload: path }),
      });
      const [row] = await trx('recordings')
        .insert({ episode_id: episode.id, media_id: media.id, file_name: cleanName(fileName), position, place })
        .returning('id');
      recordings.set(id, row.id);
      await enqueueMissing(trx, media.id);
    }
    if (words !== null) await trx('transcripts').insert({ episode_id: episode.id, columns: JSON.stringify(words) });
    const entries = log.map(({ event, by, at }) => ({ event: renamed(event, recordings), by, at: new Date(at) }));
    await insertEntries(trx, episode.id, { seq: 0, weight: { places: 0, words: 0 } }, entries);
    await announce({ type: 'episode', episodeId: episode.id }, trx);
    await askCut(episode.id, trx);
    return episode.id as string;
  });
}

/** An entry of the log with the names that the recordings have here. */
const renamed = (event: DecisionEvent, recordings: ReadonlyMap<string, string>): DecisionEvent =>
  event.type === 'recording' ? { ...event, recording: recordings.get(event.recording) ?? randomUUID() } : event;
