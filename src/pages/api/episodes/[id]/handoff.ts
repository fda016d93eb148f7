import { z } from 'zod';
import { handoffScope } from '@/core/outputs/messages.ts';
import { askFile, askJson } from '@/server/compute/questions.ts';
import { changeOptions } from '@/server/handoff/options.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';
import { sendNamed } from '@/server/http/named.ts';
import { Refusal } from '@/server/refusal.ts';

const number = z.coerce.number().int().positive();
const asked = z.object({
  part: number.optional(),
  range: z.uuid().optional(),
  format: z.string().max(40).optional(),
  file: z.coerce.number().int().nonnegative().default(0),
});

/**
 * Without `format`, what the hand-off will hold; with it, a file (`file` counts from 0 where there are several). `part` asks for one part
 * of the programme alone, counted from 1, `range` for a marked range.
 */
export const GET = endpoint(async (context) => {
  const parsed = asked.safeParse(Object.fromEntries(context.url.searchParams));
  if (!parsed.success) throw new Refusal(404, 'There is no such part.');
  const { format, file, ...rest } = parsed.data;
  const scope = z.parse(handoffScope, rest);
  const id = uuidOf(context);
  if (format === undefined) return askJson('describe', id, { scope });
  return sendNamed(await askFile('file', id, { scope, output: format, part: file }));
});

/** Changes what is chosen about handing over; what is not named stays. */
export const PUT = endpoint(async (context) =>
  changeOptions(uuidOf(context), await bodyOf(context, z.record(z.string(), z.unknown()))),
);
