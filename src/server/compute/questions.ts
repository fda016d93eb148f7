import { setTimeout as sleep } from 'node:timers/promises';
import { z } from 'zod';
import { broughtBack, handoffScope } from '@/core/outputs/messages.ts';
import { db } from '../db/connection.ts';
import { awaitCut } from '../episodes/snapshots.ts';
import { takeEdited, writeOnEdited } from '../handoff/edited.ts';
import { describeHandoff, type NamedFile, writeArchive, writeFile } from '../handoff/files.ts';
import { handoffOf } from '../handoff/input.ts';
import { warningsOf } from '../handoff/warnings.ts';
import { Refusal, type RefusalStatus } from '../refusal.ts';

// What takes longer than others should wait is worked out where nobody waits for the process that does it.

const LOOK_MS = 15;
const PATIENCE_MS = 60_000;
const KEPT = '1 hour';
const FAILED = 'Something went wrong while this was worked out. Nothing was changed; try again.';

const asFile = ({ name, mime, content }: NamedFile): Buffer =>
  Buffer.concat([Buffer.from(`${JSON.stringify({ name, mime })}\n`), content]);
const asJson = (value: unknown): Buffer => Buffer.from(JSON.stringify(value));

/** What can be asked about an episode, by its name in the database. */
const QUESTIONS = {
  /** what a hand-off will hold */
  describe: async (id: string, about: unknown) => {
    const { scope } = z.object({ scope: handoffScope }).parse(about);
    return asJson(await describeHandoff(await handoffOf(id), scope, await warningsOf(id)));
  },
  file: async (id: string, about: unknown) => {
    const { scope, output, part } = z.object({ scope: handoffScope, output: z.string(), part: z.int() }).parse(about);
    return asFile(await writeFile(await handoffOf(id), scope, output, part));
  },
  archive: async (id: string, about: unknown) => {
    const { outputs, by } = z.object({ outputs: z.array(z.string()), by: z.enum(['all', 'parts', 'ranges']) }).parse(about);
    return asFile(await writeArchive(await handoffOf(id), outputs, by));
  },
  edited: async (id: string, about: unknown) => asJson(await takeEdited(id, z.parse(broughtBack, about))),
  'on edited': async (id: string, about: unknown) =>
    asFile(await writeOnEdited(id, z.object({ output: z.string() }).parse(about).output)),
} as const satisfies Record<string, (episodeId: string, about: unknown) => Promise<Buffer>>;
type Question = keyof typeof QUESTIONS;

/**
 * Asks whoever computes, and waits. The cut is waited for first: the same process works it out.
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
  for (const until = Date.now() + PATIENCE_MS; Date.now() < until; await sleep(LOOK_MS)) {
    const row = await db('questions')
      .where({ id })
      .whereRaw('(answer is not null or refused is not null)')
      .first('answer', 'refused');
    if (!row) continue;
    await db('questions').where({ id }).delete();
    if (row.answer) return row.answer;
    const { status, why } = refusal.parse(row.refused);
    throw new Refusal(status as RefusalStatus, why);
  }
  throw new Refusal(503, 'This is still being worked out: try again in a moment. Nothing is lost.');
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

/** Answers a question that somebody waits for. */
export async function answerQuestion(questionId: string): Promise<void> {
  const row = await db('questions').where({ id: questionId, answer: null, refused: null }).first('episode_id', 'what', 'about');
  if (!row) return;
  const work = QUESTIONS[row.what as Question];
  try {
    await db('questions')
      .where({ id: questionId })
      .update({ answer: await work(row.episode_id, row.about) });
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await refuseQuestion(questionId, error.message, error.status);
  }
}

export const refuseQuestion = async (questionId: string, why: string = FAILED, status = 422): Promise<void> => {
  await db('questions')
    .where({ id: questionId })
    .update({ refused: JSON.stringify({ status, why }), about: '{}' });
};
