import { askRender } from '@/core/render/messages.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';
import { askForRender, rendersOf } from '@/server/render/renders.ts';

/** What was rendered of an episode, and what is on its way. */
export const GET = endpoint((context) => rendersOf(uuidOf(context)));

/** Asks for a render. */
export const POST = endpoint(async (context) =>
  Response.json(await askForRender(uuidOf(context), await bodyOf(context, askRender)), { status: 201 }),
);
