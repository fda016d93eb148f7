import { askPlacing } from '@/core/contract/messages.ts';
import { askPlacingOfAll, seekAnew } from '@/server/episodes/words.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

export const POST = endpoint(async (context) => {
  const { anew } = await bodyOf(context, askPlacing);
  return anew ? seekAnew(uuidOf(context)) : askPlacingOfAll(uuidOf(context));
});
