import { RENDER_FORMATS } from '@/core/render/choices.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { sendFile } from '@/server/http/file.ts';
import { sendFileAs } from '@/server/http/named.ts';
import { choicesOf, findMade, renderedPath } from '@/server/render/renders.ts';

/** The finished file, to be saved or, with `play`, to be shown; byte ranges are answered. */
export const GET = endpoint(async (context) => {
  const row = await findMade(uuidOf(context));
  const [path, { mime }] = [renderedPath(row.id), RENDER_FORMATS[choicesOf(row).format]];
  const answer = context.url.searchParams.has('play')
    ? await sendFile(context.request, path, mime)
    : await sendFileAs(context.request, path, mime, row.name);
  // It may be made again under this address.
  answer.headers.set('cache-control', 'private, no-cache');
  return answer;
});
