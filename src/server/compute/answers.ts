import { z } from 'zod';
import { broughtBack, handoffScope } from '@/core/outputs/messages.ts';
import { db } from '../db/connection.ts';
import { cutHere } from '../episodes/makeSnapshot.ts';
import { callOut } from '../events.ts';
import { takeEdited, writeOnEdited } from '../handoff/edited.ts';
import { describeHandoff, type NamedFile, writeArchive, writeFile } from '../handoff/files.ts';
import { handoffOf } from '../handoff/input.ts';
import { warningsOf } from '../handoff/warnings.ts';
import { Refusal } from '../refusal.ts';

const FAILED = 'Something went wrong while this was worked out. Nothing was changed; try again.';

const asFile = ({ name, mime, content }: NamedFile): Buffer =>
  Buffer.concat([Buffer.from(`${JSON.stringify({ name, mime })}\n`), content]);
const asJson = (value: unknown): Buffer => Buffer.from(JSON.stringify(value));

/** What can be asked about an episode, by its name in the database. */
const QUESTIONS = {
  /** what a hand-off will hold */
  describe: async (id: string, about: unknown) => {
    const { scope } = z.object({ scope: handoffScope }).parse(about);
    return asJson(await describeHandoff(await handoffOf(await cutHere(id)), scope, await warningsOf(id)));
  },
  file: async (id: string, about: unknown) => {
    const { scope, output, part } = z.object({ scope: handoffScope, output: z.string(), part: z.int() }).parse(about);
    return asFile(await writeFile(await handoffOf(await cutHere(id)), scope, output, part));
  },
  archive: async (id: string, about: unknown) => {
    const { outputs, by } = z.object({ outputs: z.array(z.string()), by: z.enum(['all', 'parts', 'ranges']) }).parse(about);
    return asFile(await writeArchive(await handoffOf(await cutHere(id)), outputs, by));
  },
  edited: async (id: string, about: unknown) => asJson(await takeEdited(await cutHere(id), z.parse(broughtBack, about))),
  'on edited': async (id: string, about: unknown) =>
    asFile(await writeOnEdited(await cutHere(id), z.object({ output: z.string() }).parse(about).output)),
} as const satisfies Record<string, (episodeId: string, about: unknown) => Promise<Buffer>>;
export type Question = keyof typeof QUESTIONS;

/** Answers a question that somebody waits for. */
export async function answerQuestion(questionId: string): Promise<void> {
  const row = await db('questions').where({ id: questionId, answer: null, refused: null }).first('episode_id', 'what', 'about');
  if (!row) return;
  const work = QUESTIONS[row.what as Question];
  try {
    await db('questions')
      .where({ id: questionId })
      .update({ answer: await work(row.episode_id, row.about) });
    await callOut(questionId);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await refuseQuestion(questionId, error.message, error.status);
  }
}

export const refuseQuestion = async (questionId: string, why: string = FAILED, status = 422): Promise<void> => {
  await db('questions')
    .where({ id: questionId })
    .update({ refused: JSON.stringify({ status, why }), about: '{}' });
  await callOut(questionId);
};
