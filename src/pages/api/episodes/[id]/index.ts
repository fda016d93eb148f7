import { renameEpisode as renameSchema } from '@/core/contract/messages.ts';
import { describeEpisode, removeEpisode, renameEpisode } from '@/server/episodes/episodes.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

export const GET = endpoint((context) => describeEpisode(uuidOf(context)));
export const PATCH = endpoint(async (context) => {
  const { title } = await bodyOf(context, renameSchema);
  await renameEpisode(uuidOf(context), title);
});
export const DELETE = endpoint((context) => removeEpisode(uuidOf(context)));
