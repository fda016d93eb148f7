import { newRecording } from '@/core/contract/messages.ts';
import { recordingFromFolder, recordingFromUpload } from '@/server/episodes/intake.ts';
import { endpoint, uuidOf } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

/** Adds a recording at the end of the episode clock. */
export const POST = endpoint(async (context) => {
  const episode = uuidOf(context);
  const wanted = await bodyOf(context, newRecording);
  const id =
    wanted.from === 'upload'
      ? await recordingFromUpload(episode, wanted.upload)
      : await recordingFromFolder(episode, wanted.entry);
  return Response.json({ id }, { status: 201 });
});
