import { importWords, namedLanguage } from '@/core/contract/messages.ts';
import { MAX_TRANSCRIPT_BYTES } from '@/core/transcript/word.ts';
import { findEpisode } from '@/server/episodes/episode.ts';
import { importTranscript } from '@/server/episodes/wordImports.ts';
import { nameLanguage, wordsOfVersion } from '@/server/episodes/words.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';
import { FOR_EVER, sendPacked } from '@/server/http/packed.ts';

export const GET = endpoint(async (context) => {
  const { id, wordsVersion } = await findEpisode(uuidOf(context));
  // Whoever asks for an older version gets the present one, and must not take it for the other.
  const isAsked = context.url.searchParams.get('version') === String(wordsVersion);
  const content = async () => JSON.stringify({ words: await wordsOfVersion(id, wordsVersion) });
  return sendPacked(context.request, `${id} ${wordsVersion}`, content, {
    'content-type': 'application/json',
    'cache-control': isAsked ? FOR_EVER : 'no-store',
  });
});

export const PATCH = endpoint(async (context) => {
  const { language } = await bodyOf(context, namedLanguage);
  await nameLanguage(uuidOf(context), language);
});

export const PUT = endpoint(async (context) => {
  const { text, recording } = await bodyOf(context, importWords, MAX_TRANSCRIPT_BYTES);
  return importTranscript(uuidOf(context), text, recording);
});
