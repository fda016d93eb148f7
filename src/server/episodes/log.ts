import { type LoggedEvent, loggedEvent } from '@/core/contract/messages.ts';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { notFound } from '../refusal.ts';
import { askCut } from './snapshots.ts';

/** An episode's decisions after a point in its log and up to another, in order. */
export async function readLog(episodeId: string, after = 0, upTo = Number.MAX_SAFE_INTEGER): Promise<LoggedEvent[]> {
  const rows = await db('decisions')
    .where({ episode_id: episodeId })
    .where('seq', '>', after)
    .where('seq', '<=', upTo)
    .orderBy('seq')
    .select('seq', 'event');
  return rows.map(({ seq, event }) => loggedEvent.parse({ seq: Number(seq), event }));
}

/**
 * Adds decisions to the end of an episode's log. What was added before (the answer may have been lost) is not added
 * again. The lock on the episode's row puts two tabs that write at once into one order.
 * @returns the entries with their places, in the log's order; when this returns they are on disk
 */
export async function append(episodeId: string, events: readonly DecisionEvent[]): Promise<LoggedEvent[]> {
  return db.transaction(async (trx) => {
    const episode = await trx('episodes').where({ id: episodeId }).forUpdate().first('last_seq');
    if (!episode) throw notFound('That episode');
    const ids = events.map((event) => event.id);
    const before = await trx('decisions').where({ episode_id: episodeId }).whereIn('event_id', ids).select('event_id');
    const known = new Set<string>(before.map((row) => row.event_id));
    let seq = Number(episode.last_seq);
    const fresh = events.filter((event) => !known.has(event.id) && known.add(event.id));
    if (fresh.length > 0) {
      await trx('decisions').insert(
        fresh.map((event) => ({ episode_id: episodeId, seq: ++seq, event_id: event.id, event: JSON.stringify(event) })),
      );
      await trx('episodes').where({ id: episodeId }).update({ last_seq: seq });
      await announce({ type: 'decisions', episodeId, seq }, trx);
      await askCut(episodeId, trx, true);
    }
    const rows = await trx('decisions')
      .where({ episode_id: episodeId })
      .whereIn('event_id', ids)
      .orderBy('seq')
      .select('seq', 'event');
    return rows.map((row) => loggedEvent.parse({ seq: Number(row.seq), event: row.event }));
  });
}
