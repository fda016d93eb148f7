import { join } from 'node:path';
import { acrossFile, MEASURES } from '@/core/curves/measures.ts';
import { endpoint } from '@/server/http/answer.ts';
import { sendFile } from '@/server/http/file.ts';
import { findMedium } from '@/server/media/media.ts';
import { curvesFolder } from '@/server/media/store.ts';
import { notFound } from '@/server/refusal.ts';

const names = Object.values(MEASURES).map(({ file, perTrack }) => (perTrack ? `${file}-\\d{1,2}` : file));
const NAME = new RegExp(`^(peaks-\\d{1,2}-\\d|${acrossFile('[0-9a-f]{64}')}|${names.join('|')})\\.ztcv$`);

/** A curve file, whole or by byte range. */
export const GET = endpoint(async ({ params, request }) => {
  const { id } = await findMedium(params.id ?? '');
  if (!NAME.test(params.name ?? '')) throw notFound('That curve');
  return sendFile(request, join(curvesFolder(id), params.name as string), 'application/octet-stream', true);
});
