import { knownCutOf } from '@/server/episodes/cut.ts';
import { findEpisode } from '@/server/episodes/episode.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { sendPacked } from '@/server/http/packed.ts';

/** The cut as far as it is known: nothing is computed for it, since whoever asks can do that. */
export const GET = endpoint(async (context) => {
  const known = knownCutOf(await findEpisode(uuidOf(context)));
  if (!known) return undefined;
  return sendPacked(context.request, `cut ${known.key}`, async () => JSON.stringify(known.sent()), {
    'content-type': 'application/json',
    'cache-control': 'no-store',
  });
});
