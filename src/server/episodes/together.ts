import { mkdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import { syncedBy } from '@/core/contract/media.ts';
import type { ChangeTogether } from '@/core/contract/messages.ts';
import type { Seconds } from '@/core/time/range.ts';
import { db, type Transaction } from '../db/connection.ts';
import { announce } from '../events.ts';
import { cancel, enqueue } from '../jobs/jobs.ts';
import { enqueueMissing } from '../jobs/missing.ts';
import { MediaError } from '../media/ffmpeg.ts';
import type { MeasureOptions } from '../media/measure.ts';
import { findMedium, type Medium } from '../media/media.ts';
import { contentId, flush, mediumFolder, originalPath } from '../media/store.ts';
import { joinFiles } from '../media/together/joinFiles.ts';
import { Refusal } from '../refusal.ts';
import { type EpisodeRecording, findEpisode, recordingIn } from './episode.ts';
import { stateOfFile } from './files.ts';
import { fileFrom } from './intake.ts';
import { insertMedium } from './newMedia.ts';
import { forgetUnused } from './removal.ts';
import { askCut } from './snapshots.ts';

// A recording of several files that ran together is one medium: a file that holds all their sounds in the clock of the first, and its
// picture. What it was made of is told by its facts, for whoever hands it over.

/** Files that one recording may be made of. */
const MOST_FILES = 8;

/** A file as a job is to put it with the others; one whose place is not known yet is looked for. */
const wantedPart = z.object({
  id: z.string(),
  name: z.string(),
  place: z.number().nullable(),
  drift: z.number(),
  by: syncedBy,
  sound: z.boolean(),
});
type WantedPart = z.infer<typeof wantedPart>;

/** What a `together` job is to do. */
export const togetherOf = z.object({
  episodeId: z.uuid(),
  recording: z.uuid(),
  parts: z.array(wantedPart).min(2),
  /** what the last of them came by, so that asking twice adds it once */
  upload: z.optional(z.string()),
});

/**
 * Has a recording made of other files: one more that ran together with it, one at another place, or one less.
 * @throws Refusal where that cannot be
 */
export async function changeTogether(episodeId: string, change: ChangeTogether): Promise<void> {
  const recording = recordingIn(await findEpisode(episodeId), change.recording);
  const underWay = await askedBefore(recording);
  const before = underWay?.parts ?? partsOf(recording);
  if (change.do === 'add') {
    if (before.length >= MOST_FILES) throw new Refusal(409, `A recording is made of ${MOST_FILES} files at most.`);
    if (recording.medium.duration <= 0)
      throw new Refusal(409, 'How long the recording is will be known once it is measured: add the file then.');
    if (change.sound === 'instead' && !recording.medium.facts.video)
      throw new Refusal(409, 'Only where there is a picture can a further file stand for the sound.');
    const upload = change.source.from === 'upload' ? change.source.upload : undefined;
    if (upload !== undefined && (await isTaken(upload))) return;
    return fileFrom(change.source, async (file) => {
      if (before.some(({ id }) => id === file.id)) throw new Refusal(422, 'That file is part of this recording already.');
      const { video, audio } = file.facts;
      const sound = change.sound !== 'unused' && audio.length > 0;
      if (!sound && !video) throw new Refusal(422, 'There is no picture in that file, and its sound is not to be used.');
      const added = { id: file.id, name: file.name, place: null, drift: 0, by: change.by, sound };
      const parts = [...before.map((part) => ({ ...part, sound: part.sound && !(sound && change.sound === 'instead') })), added];
      await db.transaction(async (trx) => {
        await insertMedium(trx, file);
        await ask(trx, episodeId, recording, parts, upload);
      });
    });
  }
  const own = before[change.file];
  if (!own || change.file === 0) throw new Refusal(404, 'There is no such file in this recording.');
  if (change.do === 'place') {
    const parts = before.map((part) => (part === own ? { ...own, place: change.place, by: 'hand' as const } : part));
    return db.transaction((trx) => ask(trx, episodeId, recording, parts));
  }
  const left = before.filter((part) => part !== own);
  const hasSound = left.some(({ sound }) => sound);
  // The first is a recording by itself, and is heard where nothing else is.
  const parts = hasSound ? left : left.map((part, k) => (k === 0 ? { ...part, sound: true } : part));
  if (parts.length > 1) return db.transaction((trx) => ask(trx, episodeId, recording, parts));
  // One alone is what it was before.
  const [single] = parts as [WantedPart];
  await findPart(single);
  if (underWay) await cancel(underWay.job).catch(() => {});
  if (single.id === recording.medium.id) return;
  await db.transaction((trx) => replaceMedium(trx, episodeId, recording, single.id));
  await forgetUnused(recording.medium.id);
}

const partsOf = ({ fileName, medium }: EpisodeRecording): WantedPart[] =>
  medium.facts.together?.map(({ id, name, place, drift, by, sound }) => ({ id, name, place, drift, by, sound })) ?? [
    { id: medium.id, name: fileName, place: 0, drift: 0, by: 'start', sound: true },
  ];

/** What the recording is being made of at this moment: what is asked next is asked of that. */
async function askedBefore({
  id,
  medium,
}: EpisodeRecording): Promise<{ readonly job: string; readonly parts: WantedPart[] } | undefined> {
  const row = await db('jobs')
    .where({ kind: 'together', media_id: medium.id })
    .whereIn('state', ['queued', 'running'])
    .whereRaw(`options->>'recording' = ?`, [id])
    .orderBy('queued_at', 'desc')
    .first('id', 'options');
  return row && { job: row.id, parts: togetherOf.parse(row.options).parts };
}

/** Whether something was asked with an upload before: the answer was lost, and not what came of it. */
const isTaken = async (upload: string): Promise<boolean> =>
  (await db('jobs').where({ kind: 'together' }).whereRaw(`options->>'upload' = ?`, [upload]).first('id')) !== undefined;

async function ask(
  trx: Transaction,
  episodeId: string,
  recording: EpisodeRecording,
  parts: readonly WantedPart[],
  upload?: string,
): Promise<void> {
  for (const { id, name } of parts) await findPart({ id, name }, trx);
  const before = await askedBefore(recording);
  if (before) await cancel(before.job).catch(() => {});
  await enqueue(trx, 'together', recording.medium.id, { episodeId, recording: recording.id, parts, upload });
}

/** The medium of a file. It may be elsewhere, where an episode came with its recordings alone. */
async function findPart({ id, name }: Pick<WantedPart, 'id' | 'name'>, trx: Transaction | typeof db = db): Promise<Medium> {
  return findMedium(id, trx).catch(() => {
    throw new Refusal(409, `“${name}” itself is not on this server, only the recording that was made of it.`);
  });
}

/** Puts another medium in a recording's place: what was decided about it, and its words, stay. */
async function replaceMedium(trx: Transaction, episodeId: string, { id, medium }: EpisodeRecording, next: string): Promise<void> {
  const changed = await trx('recordings').where({ id, media_id: medium.id }).update({ media_id: next });
  if (!changed) throw new Refusal(409, 'The recording was changed meanwhile.');
  await trx('episodes').where({ id: episodeId }).increment('words_version', 1);
  await enqueueMissing(trx, next);
  await askCut(episodeId, trx);
  await announce({ type: 'episode', episodeId }, trx);
}

/**
 * Finds where the files lie against one another, writes them into one, and puts that in the recording's place.
 * @param commit keeps what was made, as soon as the database answers
 * @throws MediaError, Refusal
 */
export async function makeTogether(
  { episodeId, recording: wanted, parts }: z.infer<typeof togetherOf>,
  commit: (work: (trx: Transaction) => Promise<void>) => Promise<void>,
  running: MeasureOptions,
): Promise<void> {
  const episode = await findEpisode(episodeId);
  const recording = recordingIn(episode, wanted);
  const media = await Promise.all(parts.map((part) => findPart(part)));
  for (const [k, medium] of media.entries())
    if ((await stateOfFile(medium)) !== 'there')
      throw new MediaError(`“${parts[k]?.name}” is missing, or was exchanged for another file.`);
  const files = await Promise.all(
    media.map(async (medium, k) => ({
      ...(parts[k] as WantedPart),
      facts: { ...medium.facts, duration: medium.duration },
      linkedPath: medium.linkedPath,
      path: await originalPath(medium.id, medium.linkedPath),
    })),
  );
  // Of a linked file nothing may lie there yet.
  await mkdir(mediumFolder(recording.medium.id), { recursive: true });
  const target = join(mediumFolder(recording.medium.id), 'together.part');
  try {
    const facts = await joinFiles(files, roomAfter(episode.recordings, recording), target, running);
    await flush(target);
    const [id, { size }] = await Promise.all([contentId(target), stat(target)]);
    await commit(async (trx) => {
      await insertMedium(trx, { id, name: recording.fileName, bytes: size, facts, linkedPath: null, upload: target });
      // The same content may have been made of files that were called otherwise.
      await trx('media')
        .where({ id })
        .update({ facts: JSON.stringify(facts) });
      if (id === recording.medium.id) await announce({ type: 'episode', episodeId }, trx);
      else await replaceMedium(trx, episodeId, recording, id);
      for (const medium of media.slice(1)) if (medium.proxy === 'pending') await enqueue(trx, 'proxy', medium.id);
    });
    await forgetUnused(recording.medium.id);
  } finally {
    await rm(target, { force: true });
  }
}

/** How long a recording may become before it reaches the next one. */
function roomAfter(recordings: readonly EpisodeRecording[], { place }: EpisodeRecording): Seconds {
  const next = recordings.find((one) => one.place > place);
  return next ? next.place - place - 1 : Number.POSITIVE_INFINITY;
}
