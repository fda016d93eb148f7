import { type LoggedEvent, loggedEvent } from '@/core/contract/messages.ts';
import { addWeights, BOUNDS, isWithin, type Weight, weightOf } from '@/core/decisions/bounds.ts';
import type { DecisionEvent } from '@/core/decisions/event.ts';
import { db, type Transaction } from '../db/connection.ts';
import { announce } from '../events.ts';
import { enqueue } from '../jobs/jobs.ts';
import { notFound, Refusal } from '../refusal.ts';
import { askCut } from './snapshots.ts';
import { correctedIn } from './words.ts';

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

/** What the log of an episode comes to; logs that an earlier version wrote are counted once. */
async function weightSoFar(
  trx: Transaction,
  episodeId: string,
  { log_places: places, log_words: words }: { log_places: number | null; log_words: number | null },
): Promise<Weight> {
  if (places !== null && words !== null) return { places, words };
  const events = (await trx('decisions').where({ episode_id: episodeId }).pluck('event')) as DecisionEvent[];
  return events.map(weightOf).reduce(addWeights, { places: 0, words: 0 });
}

/** @throws Refusal when an entry, or the log with it, would be more than can be computed with */
function boundedWeight(before: Weight, fresh: readonly DecisionEvent[]): Weight {
  let sum = before;
  for (const event of fresh) {
    const weight = weightOf(event);
    if (!isWithin(weight, BOUNDS.entry))
      throw new Refusal(
        422,
        `One decision can speak of ${BOUNDS.entry.places} places and write ${BOUNDS.entry.words} words; this one has ${weight.places} and ${weight.words}.`,
      );
    sum = addWeights(sum, weight);
    // Taking back is always possible.
    if (!isWithin(sum, BOUNDS.log) && event.type !== 'undo')
      throw new Refusal(
        422,
        `All decisions about an episode together can speak of ${BOUNDS.log.places} places and write ${BOUNDS.log.words} words, and this one would be more.`,
      );
  }
  return sum;
}

/** An entry as it is kept. */
interface KeptEntry {
  readonly event: DecisionEvent;
  /** who decided, where that is known */
  readonly by: string | null;
  /** when; now when left out */
  readonly at?: Date;
}

const ROWS_AT_ONCE = 500;

/**
 * Puts entries behind those that an episode has, in the caller's transaction, which holds the episode's row.
 * @returns the place of the last one
 * @throws Refusal when they are too much
 */
export async function insertEntries(
  trx: Transaction,
  episodeId: string,
  before: { readonly seq: number; readonly weight: Weight },
  entries: readonly KeptEntry[],
): Promise<number> {
  const events = entries.map(({ event }) => event);
  const weight = boundedWeight(before.weight, events);
  const rows = entries.map(({ event, by, at }, k) => {
    const seq = before.seq + k + 1;
    return { episode_id: episodeId, seq, event_id: event.id, event: JSON.stringify(event), by, ...(at && { at }) };
  });
  for (let k = 0; k < rows.length; k += ROWS_AT_ONCE) await trx('decisions').insert(rows.slice(k, k + ROWS_AT_ONCE));
  const seq = before.seq + rows.length;
  await trx('episodes').where({ id: episodeId }).update({ last_seq: seq, log_places: weight.places, log_words: weight.words });
  return seq;
}

/** Entries of an episode by their names. */
async function entriesOf(episodeId: string, ids: readonly string[]): Promise<readonly DecisionEvent[]> {
  if (ids.length === 0) return [];
  return db('decisions')
    .where({ episode_id: episodeId })
    .whereIn('event_id', [...ids])
    .pluck('event');
}

/**
 * Adds decisions to the end of an episode's log. What was added before (the answer may have been lost) is not added
 * again. The lock on the episode's row puts two tabs that write at once into one order.
 * @param by who decided, where that is known
 * @returns the entries with their places, in the log's order; when this returns they are on disk
 */
export async function append(
  episodeId: string,
  events: readonly DecisionEvent[],
  by: string | null = null,
): Promise<LoggedEvent[]> {
  const back = await entriesOf(
    episodeId,
    events.flatMap((event) => (event.type === 'redo' ? event.target : [])),
  );
  const corrected = await correctedIn(
    episodeId,
    [...events, ...back].flatMap((event) => (event.type === 'correct' ? event.changes.map(({ about }) => about) : [])),
  );
  return db.transaction(async (trx) => {
    const episode = await trx('episodes')
      .where({ id: episodeId, removed_at: null })
      .forUpdate()
      .first('last_seq', 'log_places', 'log_words');
    if (!episode) throw notFound('That episode');
    const ids = events.map((event) => event.id);
    const before = await trx('decisions').where({ episode_id: episodeId }).whereIn('event_id', ids).select('event_id');
    const known = new Set<string>(before.map((row) => row.event_id));
    const fresh = events.filter((event) => !known.has(event.id) && known.add(event.id));
    if (fresh.length > 0) {
      const last = { seq: Number(episode.last_seq), weight: await weightSoFar(trx, episodeId, episode) };
      const entries = fresh.map((event) => ({ event, by }));
      const seq = await insertEntries(trx, episodeId, last, entries);
      await announce({ type: 'decisions', episodeId, seq }, trx);
      await askCut(episodeId, trx, true);
      for (const { id, medium } of corrected) await enqueue(trx, 'corrections', medium.id, { episodeId, recording: id });
    }
    const rows = await trx('decisions')
      .where({ episode_id: episodeId })
      .whereIn('event_id', ids)
      .orderBy('seq')
      .select('seq', 'event');
    return rows.map((row) => loggedEvent.parse({ seq: Number(row.seq), event: row.event }));
  });
}
