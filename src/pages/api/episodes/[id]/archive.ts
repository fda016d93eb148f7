import { Readable } from 'node:stream';
import { create as contentDisposition } from 'content-disposition';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { ARCHIVE_ENDING, archiveOf } from '@/server/keeping/archive.ts';

/** The whole episode as one file; with `media=no` without the recordings. */
export const GET = endpoint(async (context) => {
  const { title, stream } = await archiveOf(uuidOf(context), context.url.searchParams.get('media') !== 'no');
  return new Response(Readable.toWeb(stream) as ReadableStream, {
    headers: {
      'content-type': 'application/x-tar',
      'content-disposition': contentDisposition(`${title}${ARCHIVE_ENDING}`),
      'cache-control': 'no-store',
    },
  });
});
