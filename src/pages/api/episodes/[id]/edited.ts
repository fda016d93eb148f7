import { broughtBack, MAX_TIMELINE_BYTES } from '@/core/outputs/messages.ts';
import { askFile, askJson } from '@/server/compute/questions.ts';
import { comparisonOf, forgetEdited } from '@/server/handoff/edited.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';
import { sendNamed } from '@/server/http/named.ts';

/** What was found of the timeline that came back last; with `format`, captions, chapters or text on it. */
export const GET = endpoint(async (context) => {
  const format = context.url.searchParams.get('format');
  const id = uuidOf(context);
  if (format === null) return { comparison: await comparisonOf(id) };
  return sendNamed(await askFile('on edited', id, { output: format }));
});

/** Takes a timeline that an editor saved, and says what they changed. */
export const PUT = endpoint(async (context) => {
  const id = uuidOf(context);
  return { comparison: await askJson('edited', id, await bodyOf(context, broughtBack, MAX_TIMELINE_BYTES)) };
});

export const DELETE = endpoint(async (context) => forgetEdited(uuidOf(context)));
