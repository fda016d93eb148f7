import { join } from 'node:path';
import { endpoint } from '@/server/http/answer.ts';
import { sendFile } from '@/server/http/file.ts';
import { findMedium } from '@/server/media/media.ts';
import { curvesFolder } from '@/server/media/store.ts';
import { notFound } from '@/server/refusal.ts';

const NAME = /^(level-\d{1,2}|peaks-\d{1,2}-\d|speech-\d{1,2}|voice-\d{1,2}|hesitation-\d{1,2}|motion|repeated)\.ztcv$/;

/** A curve file, whole or by byte range. */
export const GET = endpoint(async ({ params, request }) => {
  const { id } = await findMedium(params.id ?? '');
  if (!NAME.test(params.name ?? '')) throw notFound('That curve');
  return sendFile(request, join(curvesFolder(id), params.name as string), 'application/octet-stream', true);
});
