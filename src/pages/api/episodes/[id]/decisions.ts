import { z } from 'zod';
import { appendDecisions } from '@/core/contract/messages.ts';
import { append, readLog } from '@/server/episodes/log.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

const place = z.coerce.number().int().nonnegative().catch(0);

export const GET = endpoint(async (context) => ({
  log: await readLog(uuidOf(context), place.parse(context.url.searchParams.get('after'))),
}));

export const POST = endpoint(async (context) => {
  const { events } = await bodyOf(context, appendDecisions);
  return { log: await append(uuidOf(context), events, context.locals.by) };
});
