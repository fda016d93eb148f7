import { z } from 'zod';
import { type HandoffOptions, handoffOptions } from '@/core/outputs/messages.ts';
import { db } from '../db/connection.ts';
import { notFound, Refusal } from '../refusal.ts';

/** What is chosen about handing an episode over; what was never chosen is as usual. */
export async function optionsOf(episodeId: string): Promise<HandoffOptions> {
  const row = await db('episodes').where({ id: episodeId }).first('handoff');
  if (!row) throw notFound('That episode');
  return readOptions(row.handoff);
}

function readOptions(kept: unknown): HandoffOptions {
  const known = handoffOptions.safeParse(kept ?? {});
  return known.success ? known.data : handoffOptions.parse({});
}

/** Changes some of what is chosen; what is not named stays. @throws Refusal naming what cannot be chosen */
export async function changeOptions(episodeId: string, changed: object): Promise<HandoffOptions> {
  return db.transaction(async (trx) => {
    const row = await trx('episodes').where({ id: episodeId, removed_at: null }).forUpdate().first('handoff');
    if (!row) throw notFound('That episode');
    const options = handoffOptions.safeParse({ ...readOptions(row.handoff), ...changed });
    if (!options.success) throw new Refusal(400, z.prettifyError(options.error).slice(0, 500));
    await trx('episodes')
      .where({ id: episodeId })
      .update({ handoff: JSON.stringify(options.data) });
    return options.data;
  });
}
