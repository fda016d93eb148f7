import { importWords } from '@/core/contract/messages.ts';
import { importTranscript, readColumns } from '@/server/episodes/words.ts';
import { bodyOf, endpoint, uuidOf } from '@/server/http/answer.ts';
import { sendJson } from '@/server/http/file.ts';

export const GET = endpoint(async (context) => sendJson(context.request, { words: await readColumns(uuidOf(context)) }));

export const PUT = endpoint(async (context) => {
  const { text } = await bodyOf(context, importWords);
  return importTranscript(uuidOf(context), text);
});
