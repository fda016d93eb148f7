import { create as contentDisposition } from 'content-disposition';
import { z } from 'zod';
import { fileNameFor, formatOf } from '@/core/interchange/registry.ts';
import { describeHandoff, handoffOf, warningsOf, writeFiles } from '@/server/episodes/handoff.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { Refusal } from '@/server/refusal.ts';

/** None is the whole programme; what is no number is a part that there is not. */
const chapter = z.coerce.number().int().positive().catch(0).optional();

/**
 * Without `format`, what the hand-off will hold; with it, the file (`part` counts from 0 where there are several). `chapter` asks for one
 * part of the programme alone, counted from 1.
 */
export const GET = endpoint(async (context) => {
  const { searchParams } = context.url;
  const asked = chapter.parse(searchParams.get('chapter') ?? undefined);
  const episode = uuidOf(context);
  const handoff = await handoffOf(episode, searchParams.get('rate') ?? undefined, asked);
  const id = searchParams.get('format');
  if (id === null) return describeHandoff(handoff, await warningsOf(episode));
  const format = formatOf(id);
  if (!format) throw new Refusal(404, 'There is no such format.');
  const file = writeFiles(handoff, format)[Number(searchParams.get('part') ?? 0)];
  if (!file) throw new Refusal(404, 'There is no such part.');
  return new Response(file.text, {
    headers: {
      'content-type': format.mime,
      'content-disposition': contentDisposition(fileNameFor(handoff, file.part, format)),
      'cache-control': 'no-store',
    },
  });
});
