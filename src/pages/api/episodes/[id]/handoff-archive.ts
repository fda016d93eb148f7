import { z } from 'zod';
import { askFile } from '@/server/compute/questions.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { sendNamed } from '@/server/http/named.ts';
import { Refusal } from '@/server/refusal.ts';

const asked = z.object({ formats: z.string().max(300), by: z.enum(['all', 'parts', 'ranges']).default('all') });

/** Several formats, for all of an episode or for each part or marked range of it, in one ZIP archive. */
export const GET = endpoint(async (context) => {
  const parsed = asked.safeParse(Object.fromEntries(context.url.searchParams));
  if (!parsed.success) throw new Refusal(400, z.prettifyError(parsed.error));
  const { formats, by } = parsed.data;
  return sendNamed(await askFile('archive', uuidOf(context), { outputs: formats.split(',').filter(Boolean), by }));
});
