import { type MediaFacts, mediaFacts } from '@/core/contract/media.ts';
import type { MeasureJob } from '@/core/curves/measures.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound } from '../refusal.ts';
import { isMediumId } from './store.ts';

export interface Medium {
  readonly id: string;
  readonly bytes: number;
  readonly facts: MediaFacts;
  readonly linkedPath: string | null;
  /** seconds */
  readonly duration: number;
  readonly measured: boolean;
  /** whether the probability of speech and the change of the picture are measured */
  readonly speech: boolean;
  readonly motion: boolean;
  /** whether held sounds are measured */
  readonly voice: boolean;
  /** whether it was listened for lines that are said again */
  readonly echoes: boolean;
  /** media that come before it in an episode, and that it was compared with for lines that are said again */
  readonly comparedWith: readonly string[];
  readonly proxy: 'none' | 'pending' | 'ready';
}

/** Whether a job has measured a medium. */
export const isMeasured = (medium: Medium, job: MeasureJob): boolean => (job === 'measure' ? medium.measured : medium[job]);

/** The column that says when a job measured a medium. */
export const columnOf = (job: MeasureJob) => (job === 'measure' ? 'measured_at' : (`${job}_at` as const));

export interface MediumRow {
  id: string;
  bytes: string;
  facts: unknown;
  linked_path: string | null;
  duration: number;
  measured_at: Date | null;
  speech_at: Date | null;
  motion_at: Date | null;
  voice_at: Date | null;
  echoes_at: Date | null;
  compared_with: string[];
  proxy: Medium['proxy'];
}

export const mediumOf = (row: MediumRow): Medium => ({
  id: row.id,
  bytes: Number(row.bytes),
  facts: mediaFacts.parse(row.facts),
  linkedPath: row.linked_path,
  duration: row.duration,
  measured: row.measured_at !== null,
  speech: row.speech_at !== null,
  motion: row.motion_at !== null,
  voice: row.voice_at !== null,
  echoes: row.echoes_at !== null,
  comparedWith: row.compared_with,
  proxy: row.proxy,
});

/** @throws Refusal when there is none of that name */
export async function findMedium(id: string, trx: Transaction | typeof db = db): Promise<Medium> {
  if (!isMediumId(id)) throw notFound('That recording');
  const row = (await trx('media').where({ id }).first()) as MediumRow | undefined;
  if (!row) throw notFound('That recording');
  return mediumOf(row);
}
