import { create as contentDisposition } from 'content-disposition';
import { fileNameFor, formatOf } from '@/core/interchange/registry.ts';
import { describeHandoff, handoffOf, writeFiles } from '@/server/episodes/cut.ts';
import { findEpisode } from '@/server/episodes/episode.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { Refusal } from '@/server/refusal.ts';

/** Without `format`, what the hand-off will hold; with it, the file (`part` counts from 0 where there are several). */
export const GET = endpoint(async (context) => {
  const { searchParams } = context.url;
  const handoff = await handoffOf(await findEpisode(uuidOf(context)), searchParams.get('rate') ?? undefined);
  const id = searchParams.get('format');
  if (id === null) return describeHandoff(handoff);
  const format = formatOf(id);
  if (!format) throw new Refusal(404, 'There is no such format.');
  const file = writeFiles(handoff, format)[Number(searchParams.get('part') ?? 0)];
  if (!file) throw new Refusal(404, 'There is no such part.');
  return new Response(file.text, {
    headers: {
      'content-type': format.mime,
      'content-disposition': contentDisposition(fileNameFor(handoff.media.name, file.part, format)),
      'cache-control': 'no-store',
    },
  });
});
