import { mediaFacts } from '@/core/contract/media.ts';
import { KEPT_DAYS, type RemovedEpisode } from '@/core/contract/messages.ts';
import { db, type Transaction } from '../db/connection.ts';
import { announce } from '../events.ts';
import { forgetSound } from '../media/soundCache.ts';
import { forget } from '../media/store.ts';
import { notFound } from '../refusal.ts';

/** Removes an episode from the shelf; for a while it can be brought back. */
export async function removeEpisode(id: string): Promise<void> {
  await setRemoved(id, true);
}

export async function bringBack(id: string): Promise<void> {
  await setRemoved(id, false);
}

async function setRemoved(id: string, isRemoved: boolean): Promise<void> {
  const changed = await db('episodes')
    .where({ id })
    .where((query) => (isRemoved ? query.whereNull('removed_at') : query.whereNotNull('removed_at')))
    .update({ removed_at: isRemoved ? db.fn.now() : null });
  if (!changed) throw notFound('That episode');
  await announce({ type: 'episode', episodeId: id });
}

/** What can still be brought back, the last removed first. */
export async function removedEpisodes(): Promise<RemovedEpisode[]> {
  const rows = await db('episodes').whereNotNull('removed_at').orderBy('removed_at', 'desc').select('id', 'title', 'removed_at');
  return rows.map(({ id, title, removed_at }) => ({
    id,
    title,
    daysLeft: Math.max(0, Math.ceil(KEPT_DAYS.removed - (Date.now() - removed_at.getTime()) / 86_400_000)),
  }));
}

/** Forgets a removed episode for good, and its media when no other episode uses them. A linked file itself is never touched. */
export async function purgeEpisode(id: string): Promise<void> {
  const media = (await db('recordings').where({ episode_id: id }).distinct().pluck('media_id')) as string[];
  if (!(await db('episodes').where({ id }).whereNotNull('removed_at').delete())) throw notFound('That episode');
  await announce({ type: 'episode', episodeId: id });
  for (const medium of media) await forgetUnused(medium);
}

/** Forgets those that were removed long ago. */
export async function purgeExpired(): Promise<void> {
  const ids = await db('episodes').whereRaw(`removed_at < now() - interval '${KEPT_DAYS.removed} days'`).pluck('id');
  for (const id of ids) await purgeEpisode(id);
}

/**
 * One at a time puts a medium into the store or takes it out: the same content may come in at the very moment in which the last
 * episode that used it is forgotten. Until the end of the transaction.
 */
export const lockMedium = (trx: Transaction, mediaId: string): Promise<unknown> =>
  trx.raw('select pg_advisory_xact_lock(hashtextextended(?, 0))', [`medium ${mediaId}`]).then(() => undefined);

/** Takes a medium out of database and store, when no episode uses it, and with it what it was made of. */
export async function forgetUnused(mediaId: string): Promise<void> {
  const parts = await db.transaction(async (trx) => {
    await lockMedium(trx, mediaId);
    if (await trx('recordings').where({ media_id: mediaId }).first('id')) return [];
    if (await madeOf(mediaId, trx)) return [];
    const row = await trx('media').where({ id: mediaId }).first('facts');
    await trx('media').where({ id: mediaId }).delete();
    await forget(mediaId);
    await forgetSound(mediaId);
    return mediaFacts.safeParse(row?.facts).data?.together?.map(({ id }) => id) ?? [];
  });
  for (const id of parts) await forgetUnused(id);
}

/** A medium that was made of this one and others, which ran together with it. */
const madeOf = (mediaId: string, trx: Transaction): Promise<unknown> =>
  trx('media')
    .whereRaw(`facts->'together' @> ?::jsonb`, [JSON.stringify([{ id: mediaId }])])
    .first('id');
