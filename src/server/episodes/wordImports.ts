import { z } from 'zod';
import { type Imported, imported } from '@/core/contract/messages.ts';
import { db } from '../db/connection.ts';
import { callOut, lookUntil } from '../events.ts';
import { Refusal, type RefusalStatus } from '../refusal.ts';
import { findEpisode, recordingIn } from './episode.ts';
import { takeTranscript } from './words.ts';

// Transcripts are read and put under the sound where nobody waits for the process that does it.

/** After this the answer is that it goes on. */
const PATIENCE_MS = 60_000;
const KEPT = '1 day';
const FAILED = 'Something went wrong while these words were read. Nothing was changed; try again.';

const outcome = z.union([imported, z.object({ status: z.int(), refused: z.string() })]);

/**
 * Takes a transcript of any format in place of the present one: hands it to whoever computes, and waits.
 * @throws Refusal saying what does not fit
 */
export async function importTranscript(episodeId: string, text: string, recordingId?: string): Promise<Imported> {
  const recording = recordingIn(await findEpisode(episodeId), recordingId);
  const id = await db.transaction(async (trx) => {
    await trx('word_imports').whereRaw(`asked_at < now() - interval '${KEPT}'`).delete();
    const [row] = await trx('word_imports').insert({ episode_id: episodeId, recording_id: recording.id, text }).returning('id');
    // Somebody waits: ahead of cuts that nobody asked for.
    await trx.raw(
      "select graphile_worker.add_job('words', json_build_object('importId', ?::text), queue_name => ?, max_attempts => 3, priority => -10)",
      [row.id, `words ${episodeId}`],
    );
    return row.id as string;
  });
  const look = () => db('word_imports').where({ id }).whereNotNull('outcome').first('outcome');
  const row = await lookUntil(id, look, PATIENCE_MS);
  if (!row) return { words: 0, wordsVersion: 0, language: null, notes: [], queued: 'reading' };
  await db('word_imports').where({ id }).delete();
  const came = outcome.parse(row.outcome);
  if ('refused' in came) throw new Refusal(came.status as RefusalStatus, came.refused);
  return came;
}

/** Reads what somebody brought, and says what came of it. */
export async function takeImport(importId: string): Promise<void> {
  const row = await db('word_imports').where({ id: importId, outcome: null }).first('episode_id', 'recording_id', 'text');
  if (!row) return;
  try {
    await settle(importId, await takeTranscript(row.episode_id, row.text, row.recording_id));
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await settle(importId, { status: error.status, refused: error.message });
  }
}

export const refuseImport = (importId: string, why: string = FAILED): Promise<void> =>
  settle(importId, { status: 422, refused: why });

async function settle(id: string, came: z.infer<typeof outcome>): Promise<void> {
  await db('word_imports')
    .where({ id })
    .update({ outcome: JSON.stringify(came), text: '' });
  await callOut(id);
}
