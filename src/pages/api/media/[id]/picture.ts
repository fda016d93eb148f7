import { endpoint } from '@/server/http/answer.ts';
import { sendFile } from '@/server/http/file.ts';
import { findMedium } from '@/server/media/media.ts';
import { originalPath, proxyPath } from '@/server/media/store.ts';
import { notFound } from '@/server/refusal.ts';

/** What the browser shows: the original where it can play it, else the proxy. Byte ranges are answered. */
export const GET = endpoint(async ({ params, request }) => {
  const { id, facts, linkedPath, proxy } = await findMedium(params.id ?? '');
  if (facts.video?.playable)
    return sendFile(request, await originalPath(id, linkedPath), /webm/.test(facts.format) ? 'video/webm' : 'video/mp4');
  if (proxy !== 'ready') throw notFound('The picture');
  return sendFile(request, proxyPath(id), 'video/mp4');
});
