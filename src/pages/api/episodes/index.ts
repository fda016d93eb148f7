import { newRecording } from '@/core/contract/messages.ts';
import { config } from '@/server/config.ts';
import { listEpisodes } from '@/server/episodes/episodes.ts';
import { episodeFromFolder, episodeFromUpload } from '@/server/episodes/intake.ts';
import { removedEpisodes } from '@/server/episodes/removal.ts';
import { endpoint } from '@/server/http/answer.ts';
import { bodyOf } from '@/server/http/body.ts';
import { unfinishedUploads } from '@/server/media/uploads.ts';

export const GET = endpoint(async ({ locals }) => ({
  episodes: await listEpisodes(),
  removed: await removedEpisodes(),
  unfinished: await unfinishedUploads(),
  mediaFolder: config.mediaDir !== undefined,
  signedIn: locals.by,
}));

export const POST = endpoint(async (context) => {
  const wanted = await bodyOf(context, newRecording);
  const id = wanted.from === 'upload' ? await episodeFromUpload(wanted.upload) : await episodeFromFolder(wanted.entry);
  return Response.json({ id }, { status: 201 });
});
