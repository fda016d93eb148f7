import { stat } from 'node:fs/promises';
import { db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { enqueueMissing } from '../jobs/missing.ts';
import type { Medium } from '../media/media.ts';
import { linkedId, originalPath } from '../media/store.ts';
import { Refusal } from '../refusal.ts';
import { findEpisode, recordingIn } from './episode.ts';
import { insertMedium, linkedFile } from './newMedia.ts';
import { forgetUnused } from './removal.ts';
import { askCut } from './snapshots.ts';

/** Whether the file of a medium is the one that was measured. */
export type FileState = 'there' | 'replaced' | 'missing';

/** Looks after the file: a linked one is read at three places, since nobody says when it is exchanged. */
export async function stateOfFile({ id, linkedPath }: Medium): Promise<FileState> {
  const path = await originalPath(id, linkedPath).catch(() => undefined);
  if (path === undefined || !(await stat(path).catch(() => undefined))) return 'missing';
  if (linkedPath === null) return 'there';
  return (await linkedId(path).catch(() => undefined)) === id ? 'there' : 'replaced';
}

/**
 * Measures the file anew that has taken the place of the one a recording was made of. What was decided stays, at the same moments.
 * @throws Refusal when the file is still the same, cannot be used, or has no room where the recording stands on the clock
 */
export async function takeReplacement(episodeId: string, recordingId: string): Promise<void> {
  const episode = await findEpisode(episodeId);
  const recording = recordingIn(episode, recordingId);
  const before = recording.medium;
  if (before.linkedPath === null || (await stateOfFile(before)) !== 'replaced')
    throw new Refusal(409, 'This file is the one that was measured.');
  const file = await linkedFile(before.linkedPath);
  const next = episode.recordings.find(({ place }) => place > recording.place);
  if (next && recording.place + file.facts.duration >= next.place)
    throw new Refusal(
      409,
      'The new file is longer than the one before, and another recording follows it. Remove this one from the episode, and add the new file as a recording of its own.',
    );
  await db.transaction(async (trx) => {
    await insertMedium(trx, file);
    await trx('recordings').where({ id: recordingId }).update({ media_id: file.id });
    // What was worked out from the old file is known by the words' version too.
    await trx('episodes').where({ id: episodeId }).increment('words_version', 1);
    await enqueueMissing(trx, file.id);
    await askCut(episodeId, trx);
    await announce({ type: 'episode', episodeId }, trx);
  });
  await forgetUnused(before.id);
}
