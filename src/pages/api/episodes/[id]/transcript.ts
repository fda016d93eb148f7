import { create as contentDisposition } from 'content-disposition';
import { z } from 'zod';
import { transcriptFormatOf } from '@/core/interchange/transcripts/registry.ts';
import { findEpisode, firstOf } from '@/server/episodes/episode.ts';
import { transcriptOf } from '@/server/episodes/handoff.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { Refusal } from '@/server/refusal.ts';

const wanted = z.object({
  format: z.string(),
  what: z.enum(['left', 'all']).default('left'),
  mask: z.enum(['yes', 'no']).default('no'),
});

/** The words as a file: those that are left, in programme time, or all of them in the recording's own. */
export const GET = endpoint(async (context) => {
  const parsed = wanted.safeParse(Object.fromEntries(context.url.searchParams));
  if (!parsed.success) throw new Refusal(400, z.prettifyError(parsed.error));
  const { what, mask } = parsed.data;
  const format = transcriptFormatOf(parsed.data.format);
  if (!format) throw new Refusal(404, 'There is no such format.');
  const episode = await findEpisode(uuidOf(context));
  const text = format.write(await transcriptOf(episode.id, what === 'left', mask === 'yes'));
  const name = `${firstOf(episode).fileName.replace(/\.[^.]*$/, '')}.${format.id === 'json' ? 'words.json' : format.id}`;
  return new Response(text, {
    headers: { 'content-type': format.mime, 'content-disposition': contentDisposition(name), 'cache-control': 'no-store' },
  });
});
