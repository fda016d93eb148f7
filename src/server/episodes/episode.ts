import { db } from '../db/connection.ts';
import { type Medium, type MediumRow, mediumOf } from '../media/media.ts';
import { notFound } from '../refusal.ts';

/** An episode with its recording, as the other parts of the server need it. */
export interface Episode {
  readonly id: string;
  readonly title: string;
  readonly createdAt: Date;
  readonly fileName: string;
  readonly lastSeq: number;
  readonly wordsVersion: number;
  readonly medium: Medium;
}

export type Row = MediumRow & {
  episode_id: string;
  title: string;
  created: Date;
  file_name: string;
  last_seq: string;
  words_version: number;
};

export const withRecording = () =>
  db('episodes as e')
    .join('recordings as r', 'r.episode_id', 'e.id')
    .join('media as m', 'm.id', 'r.media_id')
    .where('r.position', 0)
    .select('m.*', 'e.id as episode_id', 'e.title', 'e.created_at as created', 'e.last_seq', 'e.words_version', 'r.file_name');

export const episodeOf = (row: Row): Episode => ({
  id: row.episode_id,
  title: row.title,
  createdAt: row.created,
  fileName: row.file_name,
  lastSeq: Number(row.last_seq),
  wordsVersion: row.words_version,
  medium: mediumOf(row),
});

export async function findEpisode(id: string): Promise<Episode> {
  const row = (await withRecording().where('e.id', id).first()) as Row | undefined;
  if (!row) throw notFound('That episode');
  return episodeOf(row);
}
