import { z } from 'zod';
import { db } from '../db/connection.ts';
import { awaitCut } from '../episodes/snapshots.ts';
import { lookUntil } from '../events.ts';
import type { NamedFile } from '../handoff/files.ts';
import { Refusal, type RefusalStatus } from '../refusal.ts';
import type { Question } from './answers.ts';

// What takes longer than others should wait is worked out where nobody waits for the process that does it.

const PATIENCE_MS = 60_000;
const KEPT = '1 hour';

/**
 * Asks whoever computes, and waits. The cut is waited for first, since why it cannot be worked out is told there.
 * @throws Refusal with what the answer refuses
 */
async function ask(what: Question, episodeId: string, about: unknown): Promise<Buffer> {
  await awaitCut(episodeId);
  const id = await db.transaction(async (trx) => {
    await trx('questions').whereRaw(`asked_at < now() - interval '${KEPT}'`).delete();
    const [row] = await trx('questions')
      .insert({ episode_id: episodeId, what, about: JSON.stringify(about) })
      .returning('id');
    await trx.raw(
      "select graphile_worker.add_job('question', json_build_object('questionId', ?::text), max_attempts => 3, priority => -20)",
      [row.id],
    );
    return row.id as string;
  });
  const look = () =>
    db('questions').where({ id }).whereRaw('(answer is not null or refused is not null)').first('answer', 'refused');
  const row = await lookUntil(id, look, PATIENCE_MS);
  if (!row) throw new Refusal(503, 'This is still being worked out: try again in a moment. Nothing is lost.');
  await db('questions').where({ id }).delete();
  if (row.answer) return row.answer;
  const { status, why } = refusal.parse(row.refused);
  throw new Refusal(status as RefusalStatus, why);
}

const refusal = z.object({ status: z.int(), why: z.string() });

export const askJson = async (what: Question, episodeId: string, about: unknown): Promise<unknown> =>
  JSON.parse((await ask(what, episodeId, about)).toString('utf8'));

export async function askFile(what: Question, episodeId: string, about: unknown): Promise<NamedFile> {
  const answer = await ask(what, episodeId, about);
  const end = answer.indexOf('\n');
  const head = z.object({ name: z.string(), mime: z.string() }).parse(JSON.parse(answer.toString('utf8', 0, end)));
  return { ...head, content: answer.subarray(end + 1) };
}
