import { cleanedName } from '@/core/outputs/plan/media.ts';
import { endpoint } from '@/server/http/answer.ts';
import { sendFileAs } from '@/server/http/named.ts';
import { cleanedWave, findCleaned } from '@/server/media/clean/cleaned.ts';
import { cleanName } from '@/server/media/cleanName.ts';
import { findMedium } from '@/server/media/media.ts';

/** Cleaned sound as a file: the tracks of the recording, sample for sample at their places. */
export const GET = endpoint(async ({ params, request, url }) => {
  const { id, facts } = await findMedium(params.id ?? '');
  const key = await findCleaned(id, url.searchParams.get('key'));
  const name = cleanedName(cleanName(url.searchParams.get('name') ?? ''));
  return sendFileAs(request, await cleanedWave(id, key, facts), 'audio/wav', name);
});
