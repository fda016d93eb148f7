import * as z from 'zod/mini';
import { transcriptColumns } from './wordColumns.ts';

/** The words of an episode, or none. On its own, because the thread that computes reads it and no other message. */
export const wordsAnswer = z.object({ words: z.nullable(transcriptColumns) });
