import { endpoint } from '@/server/http/answer.ts';
import { sendFileAs } from '@/server/http/named.ts';
import { cleanedName, cleanedPath, findCleaned } from '@/server/media/clean/cleaned.ts';
import { findMedium } from '@/server/media/media.ts';

/** Cleaned sound as a file: the tracks of the recording, sample for sample at their places. */
export const GET = endpoint(async ({ params, request, url }) => {
  const { id } = await findMedium(params.id ?? '');
  const key = await findCleaned(id, url.searchParams.get('key'));
  const name = cleanedName(url.searchParams.get('name') ?? '');
  return sendFileAs(request, cleanedPath(id, key), 'audio/x-matroska', name);
});
