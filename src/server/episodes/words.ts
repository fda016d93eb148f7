import { fromColumns, type TranscriptColumns, toColumns, transcriptColumns } from '@/core/transcript/columns.ts';
import { readTranscript, TranscriptError, type Word } from '@/core/transcript/word.ts';
import { db } from '../db/connection.ts';
import { announce } from '../events.ts';
import { notFound, Refusal } from '../refusal.ts';

export async function readColumns(episodeId: string): Promise<TranscriptColumns | null> {
  const row = await db('transcripts').where({ episode_id: episodeId }).first('columns');
  return row ? transcriptColumns.parse(row.columns) : null;
}

export async function readWords(episodeId: string): Promise<readonly Word[]> {
  const columns = await readColumns(episodeId);
  return columns ? fromColumns(columns).words : [];
}

/** Takes a transcript in place of the present one. @throws Refusal saying what does not fit */
export async function importTranscript(episodeId: string, text: string): Promise<{ words: number; wordsVersion: number }> {
  let transcript: ReturnType<typeof readTranscript>;
  try {
    transcript = readTranscript(text);
  } catch (error) {
    if (error instanceof TranscriptError) throw new Refusal(422, error.message);
    throw error;
  }
  if (transcript.words.length === 0) throw new Refusal(422, 'There are no words in this transcript.');
  return db.transaction(async (trx) => {
    const [episode] = await trx('episodes').where({ id: episodeId }).increment('words_version', 1).returning('words_version');
    if (!episode) throw notFound('That episode');
    await trx('transcripts')
      .insert({ episode_id: episodeId, columns: JSON.stringify(toColumns(transcript)) })
      .onConflict('episode_id')
      .merge();
    await announce({ type: 'episode', episodeId }, trx);
    return { words: transcript.words.length, wordsVersion: episode.words_version };
  });
}
