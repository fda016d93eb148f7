import { askModel } from '@/core/contract/models.ts';
import { endpoint } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';
import { beginAdding, listModels, stopAdding, takeAway } from '@/server/models/adding.ts';

export const GET = endpoint(() => listModels());
export const POST = endpoint(async (context) => beginAdding(await bodyOf(context, askModel)));
/** Stops what is being added, or takes one away that is named. */
export const DELETE = endpoint(async ({ url }) => {
  const name = url.searchParams.get('name');
  if (name === null) stopAdding();
  else await takeAway(name);
});
