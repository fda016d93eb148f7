import { renameEpisode as renameSchema } from '@/core/contract/messages.ts';
import { describeEpisode, renameEpisode } from '@/server/episodes/episodes.ts';
import { purgeEpisode, removeEpisode } from '@/server/episodes/removal.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

export const GET = endpoint((context) => describeEpisode(uuidOf(context)));
export const PATCH = endpoint(async (context) => {
  const { title } = await bodyOf(context, renameSchema);
  await renameEpisode(uuidOf(context), title);
});
/** Removes it from the shelf; with `forGood`, one that was removed before is forgotten. */
export const DELETE = endpoint((context) =>
  context.url.searchParams.has('forGood') ? purgeEpisode(uuidOf(context)) : removeEpisode(uuidOf(context)),
);
