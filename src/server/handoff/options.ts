import { type HandoffOptions, handoffOptions } from '@/core/outputs/messages.ts';
import { db } from '../db/connection.ts';
import { notFound } from '../refusal.ts';

/** What is chosen about handing an episode over; what was never chosen is as usual. */
export async function optionsOf(episodeId: string): Promise<HandoffOptions> {
  const row = await db('episodes').where({ id: episodeId }).first('handoff');
  if (!row) throw notFound('That episode');
  const known = handoffOptions.safeParse(row.handoff ?? {});
  return known.success ? known.data : handoffOptions.parse({});
}

export async function keepOptions(episodeId: string, options: HandoffOptions): Promise<void> {
  const changed = await db('episodes')
    .where({ id: episodeId, removed_at: null })
    .update({ handoff: JSON.stringify(options) });
  if (!changed) throw notFound('That episode');
}
