import { z } from 'zod';
import { transcriptFormatOf } from '@/core/interchange/transcripts/registry.ts';
import { masked } from '@/core/outputs/captions/masking.ts';
import { firstOf } from '@/server/episodes/episode.ts';
import { masksFor } from '@/server/episodes/masks.ts';
import { wholeCut } from '@/server/episodes/snapshots.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { sendNamed } from '@/server/http/named.ts';
import { Refusal } from '@/server/refusal.ts';

const wanted = z.object({ format: z.string(), mask: z.enum(['yes', 'no']).default('no') });

/** All words, corrected, in the time of the recordings, as a file. */
export const GET = endpoint(async (context) => {
  const parsed = wanted.safeParse(Object.fromEntries(context.url.searchParams));
  if (!parsed.success) throw new Refusal(400, z.prettifyError(parsed.error));
  const format = transcriptFormatOf(parsed.data.format);
  if (!format) throw new Refusal(404, 'There is no such format.');
  const { episode, transcript } = await wholeCut(uuidOf(context));
  const all = transcript();
  const words = parsed.data.mask === 'yes' ? masked(all.words, await masksFor(all.language)) : all.words;
  const name = `${firstOf(episode).fileName.replace(/\.[^.]*$/, '')}.${format.id === 'json' ? 'words.json' : format.id}`;
  return sendNamed({ name, mime: format.mime, content: new TextEncoder().encode(format.write({ ...all, words })) });
});
