import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Loudness } from '@/core/clean/loudness.ts';
import type { HandoffScope } from '@/core/outputs/messages.ts';
import { endingOf, isCopied, isOfPicture, RENDER_FORMAT_IDS, type RenderChoices, renderChoices } from '@/core/render/choices.ts';
import type { AskRender, RenderList, RenderView } from '@/core/render/messages.ts';
import { bytesExpected } from '@/core/render/size.ts';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { findEpisode, firstOf, measuredOf } from '../episodes/episode.ts';
import { awaitCut, summariesOf } from '../episodes/snapshots.ts';
import { optionsOf } from '../handoff/options.ts';
import { cancel, enqueue, renderJobs } from '../jobs/jobs.ts';
import { cleaningKey } from '../media/clean/cleaned.ts';
import { cleanName } from '../media/cleanName.ts';
import { missingEncoders } from '../media/render/encoders.ts';
import { mayBeCopied } from '../media/render/entryFrames.ts';
import { removeFolder } from '../media/store.ts';
import { notFound, Refusal } from '../refusal.ts';
import { roomAt } from '../room.ts';

export interface RenderRow {
  readonly id: string;
  readonly episode_id: string;
  readonly name: string;
  readonly choices: unknown;
  readonly scope: HandoffScope;
  readonly made_at: Date | null;
  readonly made_from: string | null;
  readonly words_version: number | null;
  readonly cleaned_as: string | null;
  readonly bytes: string | null;
  readonly length: number | null;
  readonly loudness: { before: Loudness | null; after: Loudness | null } | null;
}

const rendersFolder = (): string => join(config.dataDir, 'renders');
const folderOf = (id: string): string => join(rendersFolder(), id);
export const renderedPath = (id: string): string => join(folderOf(id), 'rendered');
/** Where what is finished of it waits for the rest. */
export const workFolder = (id: string): string => join(folderOf(id), 'work');

/** What was rendered of an episode, and what is on its way, the newest first. */
export async function rendersOf(episodeId: string): Promise<RenderList> {
  const episode = await findEpisode(episodeId);
  const rows = (await db('renders').where({ episode_id: episodeId }).orderBy('asked_at', 'desc')) as RenderRow[];
  const jobs = await renderJobs(rows.map(({ id }) => id));
  const decided = await lastDecision(episodeId);
  const { centre, cleaning } = await optionsOf(episodeId);
  const isMoved = (choices: RenderChoices): boolean =>
    isOfPicture(choices.format) && (choices.centre.x !== centre.x || choices.centre.y !== centre.y);
  const cleanedAs = cleaningKey(cleaning);
  const isCleanedOtherwise = ({ cleaned_as }: RenderRow): boolean => cleaned_as !== null && cleaned_as !== cleanedAs;
  const view = (row: RenderRow, choices = choicesOf(row)): RenderView => ({
    id: row.id,
    name: row.name,
    choices,
    scope: row.scope,
    job: jobs.get(row.id) ?? null,
    made:
      row.made_at === null
        ? null
        : {
            bytes: Number(row.bytes),
            length: row.length ?? 0,
            isOld:
              Number(row.made_from) < decided ||
              row.words_version !== episode.wordsVersion ||
              isMoved(choices) ||
              isCleanedOtherwise(row),
            before: row.loudness?.before ?? null,
            after: row.loudness?.after ?? null,
          },
  });
  const missing = await missingEncoders();
  const copies = measuredOf(episode).some(({ medium }) => mayBeCopied(medium.facts));
  return { copies, renders: rows.map((row) => view(row)), missing: RENDER_FORMAT_IDS.filter((id) => missing.has(id)) };
}

export const choicesOf = ({ choices }: Pick<RenderRow, 'choices'>): RenderChoices => renderChoices.parse(choices);

/** The place in the log of the last entry that changes what is cut: what was heard changes nothing. */
async function lastDecision(episodeId: string): Promise<number> {
  const row = await db('decisions')
    .where({ episode_id: episodeId })
    .whereRaw(`event->>'type' <> 'heard'`)
    .max('seq as last')
    .first();
  return Number(row?.last ?? 0);
}

/** Asks for a render; the queue worker makes it. @throws Refusal when it cannot be made, or there is no room for it */
export async function askForRender(episodeId: string, { choices, scope }: AskRender): Promise<{ id: string }> {
  const { title, mediaId } = await checked(episodeId, choices);
  return db.transaction(async (trx) => {
    const [row] = await trx('renders')
      .insert({
        episode_id: episodeId,
        name: nameFor(title, scope, choices),
        choices: JSON.stringify(choices),
        scope: JSON.stringify(scope),
      })
      .returning('id');
    await enqueue(trx, 'render', mediaId, { render: row.id });
    return { id: row.id };
  });
}

/** An episode that can be rendered as it is chosen, and the medium that its job is told by. */
async function checked(episodeId: string, choices: RenderChoices): Promise<{ title: string; mediaId: string }> {
  const episode = await awaitCut(episodeId);
  const length = (await summariesOf([episode])).get(episodeId)?.summary.programme ?? 0;
  if (length === 0) throw new Refusal(409, 'Nothing is left of the recording: there is nothing to render.');
  if ((await missingEncoders()).has(choices.format)) throw new Refusal(409, 'This server has no encoder for that format.');
  if (choices.captions !== 'none' && episode.wordsVersion === 0)
    throw new Refusal(409, 'Captions need words, and this episode has none yet.');
  const first = measuredOf(episode).find(({ medium }) => medium.facts.video) ?? firstOf(episode);
  const { video } = first.medium.facts;
  const recorded = measuredOf(episode).reduce((sum, { medium }) => sum + medium.bytes, 0);
  const expected = bytesExpected(choices, length, video && video.width * video.height);
  // A copy may be as large as what it is copied from.
  await checkRoom(choices, isCopied(choices) ? Math.max(expected, recorded) : expected);
  return { title: episode.title, mediaId: first.medium.id };
}

/** What the file is called: no system refuses it. */
function nameFor(title: string, { part, range }: HandoffScope, { format }: RenderChoices): string {
  const of = part !== undefined ? ` - part ${part}` : range !== undefined ? ' - marked range' : '';
  return cleanName(`${title.replaceAll(/[\\/:*?"<>|]+/g, ' ').slice(0, 150)}${of}.${endingOf(format)}`);
}

/** Kept free beside what is rendered. */
const SPARE_BYTES = 200_000_000;

/** Segments and the file that is put together from them exist at the same time. */
async function checkRoom(choices: RenderChoices, expected: number): Promise<void> {
  const copies = isOfPicture(choices.format) ? 2 : 1;
  const wanted = copies * expected + SPARE_BYTES;
  const room = await roomAt(config.dataDir);
  if (room >= wanted) return;
  const inGigabytes = (bytes: number) => (bytes / 1e9).toFixed(1);
  throw new Refusal(
    507,
    `This needs up to ${inGigabytes(wanted)} GB on the disk of the server, and ${inGigabytes(room)} GB are free. Choose a smaller quality, or delete renders that are not needed.`,
  );
}

/**
 * Has a render made again, from what is decided now. What was finished of one that was stopped is used again; the file that is there stays
 * until the new one is whole.
 */
export async function askAgain(renderId: string): Promise<void> {
  const row = await findRender(renderId);
  const job = (await renderJobs([renderId])).get(renderId);
  if (job && (job.state === 'queued' || job.state === 'running')) throw new Refusal(409, 'It is being rendered.');
  const { centre } = await optionsOf(row.episode_id);
  const choices = { ...choicesOf(row), centre };
  const { mediaId } = await checked(row.episode_id, choices);
  await db.transaction(async (trx) => {
    await trx('renders')
      .where({ id: renderId })
      .update({ asked_at: new Date(), choices: JSON.stringify(choices) });
    await enqueue(trx, 'render', mediaId, { render: renderId });
  });
}

export async function findRender(id: string): Promise<RenderRow> {
  const row = (await db('renders').where({ id }).first()) as RenderRow | undefined;
  if (!row) throw notFound('That render');
  return row;
}

/** A render whose file is there. */
export async function findMade(id: string): Promise<RenderRow> {
  const row = await findRender(id);
  if (row.made_at === null) throw notFound('That file');
  return row;
}

/** Deletes a render, and ends its making. */
export async function removeRender(id: string): Promise<void> {
  const job = (await renderJobs([id])).get(id);
  if (!(await db('renders').where({ id }).delete())) throw notFound('That render');
  if (job?.state === 'queued' || job?.state === 'running') await cancel(job.id).catch(() => {});
  await removeFolder(folderOf(id));
}

/** Clears away what was rendered of episodes that are no more, once it is an hour old. */
export async function sweepRenders(): Promise<void> {
  const known = new Set(await db('renders').pluck('id'));
  for (const id of await readdir(rendersFolder()).catch(() => [])) {
    const { mtimeMs } = await stat(folderOf(id)).catch(() => ({ mtimeMs: Date.now() }));
    if (!known.has(id) && Date.now() - mtimeMs > 3_600_000) await removeFolder(folderOf(id));
  }
}
