import { z } from 'zod';
import { endpoint, urgencyOf } from '@/server/http/answer.ts';
import { findCleaned } from '@/server/media/clean/cleaned.ts';
import { findMedium } from '@/server/media/media.ts';
import { SOUND_PART_SECONDS } from '@/server/media/sound.ts';
import { cachedSoundPart } from '@/server/media/soundCache.ts';
import { Refusal } from '@/server/refusal.ts';

const index = z.coerce.number().int().nonnegative();

/** A part of the sound, all tracks mixed, as FLAC: `?part=n` is the n-th stretch of equal length; with `cleaned`, of the cleaned sound of that name. */
export const GET = endpoint(async ({ params, request, url }) => {
  const medium = await findMedium(params.id ?? '');
  const part = index.safeParse(url.searchParams.get('part'));
  if (!part.success || part.data * SOUND_PART_SECONDS >= medium.duration) throw new Refusal(404, 'There is no sound there.');
  const asked = url.searchParams.get('cleaned');
  const cleaned = asked === null ? undefined : await findCleaned(medium.id, asked);
  const bytes = await cachedSoundPart(medium, part.data, urgencyOf(request), request.signal, cleaned);
  return new Response(bytes, {
    headers: { 'content-type': 'audio/flac', 'cache-control': 'private, max-age=31536000, immutable' },
  });
});
