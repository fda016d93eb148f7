import { basisKey } from '@/core/contract/cut.ts';
import type { CutTrouble } from '@/core/contract/messages.ts';
import { weightOf } from '@/core/decisions/bounds.ts';
import { db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { Refusal } from '../refusal.ts';
import { findEpisode } from './episode.ts';
import { readLog } from './log.ts';
import { basisOf, currentTrouble } from './snapshots.ts';

/** Lighter than this an entry is not what computing founders on. */
const HEAVY = 500;

/** Notes that the cut of an episode, as it now is, cannot be computed, and which entry of its log asks the most. */
export async function noteTrouble(episodeId: string, why: string): Promise<void> {
  const episode = await findEpisode(episodeId);
  const entries = await entriesInForce(episodeId);
  const weighed = entries.map(({ seq, event }) => {
    const { places, words } = weightOf(event);
    return { seq, id: event.id, type: event.type, places, words };
  });
  const [heaviest] = weighed.sort((a, b) => b.places + b.words - a.places - a.words);
  const entry = heaviest && heaviest.places + heaviest.words >= HEAVY ? heaviest : null;
  const trouble: CutTrouble = { basis: basisKey(basisOf(episode)), why, entry };
  await db('episodes')
    .where({ id: episodeId })
    .update({ cut_trouble: JSON.stringify(trouble) });
  await announce({ type: 'episode', episodeId });
}

/** Entries that nobody has taken back. */
async function entriesInForce(episodeId: string) {
  const entries = await readLog(episodeId);
  const undone = new Set<string>();
  for (const { event } of entries) {
    if (event.type === 'undo') undone.add(event.target);
    else if (event.type === 'redo') undone.delete(event.target);
  }
  return entries.filter(({ event }) => event.type !== 'undo' && event.type !== 'redo' && !undone.has(event.id));
}

/** Whether it is known that the cut of an episode, as it now is, cannot be computed. */
export async function isHopeless(episodeId: string): Promise<boolean> {
  const episode = await findEpisode(episodeId).catch((error) => {
    if (error instanceof Refusal) return undefined;
    throw error;
  });
  return episode !== undefined && currentTrouble(episode) !== undefined;
}
