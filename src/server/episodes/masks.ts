import type { MaskList } from '@/core/contract/messages.ts';
import { baseLanguage } from '@/core/detect/words/lexicon.ts';
import { db } from '../db/connection.ts';

/** The words that are masked in what is exported, by language. */
export async function listMasks(): Promise<MaskList[]> {
  const rows = (await db('masked_words').orderBy(['language', 'word'])) as { language: string; word: string }[];
  const lists = new Map<string, string[]>();
  for (const { language, word } of rows) lists.set(language, [...(lists.get(language) ?? []), word]);
  return [...lists].map(([language, words]) => ({ language, words }));
}

/** Keeps the list of one language in place of what it was. */
export async function keepMasks({ language, words }: MaskList): Promise<void> {
  await db.transaction(async (trx) => {
    await trx('masked_words').where({ language }).delete();
    const rows = [...new Set(words.map((word) => word.toLowerCase()))].map((word) => ({ language, word }));
    if (rows.length > 0) await trx('masked_words').insert(rows);
  });
}

export async function masksFor(language: string): Promise<string[]> {
  return db('masked_words')
    .where({ language: baseLanguage(language) })
    .pluck('word');
}
