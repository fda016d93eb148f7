import { findEpisode } from '@/server/episodes/episode.ts';
import { shownCut } from '@/server/episodes/snapshots.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { sendGzip } from '@/server/http/packed.ts';

/** The cut as far as it is known: nothing is computed for it, since whoever asks can do that. */
export const GET = endpoint(async (context) => {
  const shown = await shownCut(await findEpisode(uuidOf(context)));
  if (!shown) return undefined;
  return sendGzip(context.request, shown, { 'content-type': 'application/json', 'cache-control': 'no-store' });
});
