import { newRecording } from '@/core/contract/messages.ts';
import { config } from '@/server/config.ts';
import { listEpisodes } from '@/server/episodes/episodes.ts';
import { episodeFromFolder, episodeFromUpload } from '@/server/episodes/intake.ts';
import { endpoint } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';

export const GET = endpoint(async () => ({ episodes: await listEpisodes(), mediaFolder: config.mediaDir !== undefined }));

export const POST = endpoint(async (context) => {
  const wanted = await bodyOf(context, newRecording);
  const id = wanted.from === 'upload' ? await episodeFromUpload(wanted.upload) : await episodeFromFolder(wanted.entry);
  return Response.json({ id }, { status: 201 });
});
