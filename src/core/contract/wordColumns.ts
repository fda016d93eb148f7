import * as z from 'zod/mini';
import type { Transcript, Word } from '../transcript/word.ts';
import { column } from './column.ts';

const texts = column((item): item is string => typeof item === 'string', 'texts');
const wholes = column((item): item is number => Number.isSafeInteger(item), 'whole numbers');
const lengths = column((item): item is number => Number.isSafeInteger(item) && (item as number) >= 0, 'lengths');

/**
 * A transcript by columns, the form in which it travels to the browser: a third of the size of a list of words, and
 * quick to parse. Times are whole milliseconds: starts as steps from the word before, ends as lengths.
 */
export const transcriptColumns = z.object({
  language: z.string(),
  text: texts,
  step: wholes,
  length: lengths,
  /** percent; left out when all are 100 */
  confidence: z.optional(wholes),
  speakers: z.array(z.string()),
  /** index into `speakers`; left out when there is one */
  speaker: z.optional(wholes),
  /** indexes of words with estimated timing */
  estimated: wholes,
  /** milliseconds that edges may be off, 0 where that is not known; left out when it is known of none */
  error: z.optional(wholes),
  /** indexes of words during which somebody else on the same microphone speaks; left out when there are none */
  overlapped: z.optional(wholes),
});
export type TranscriptColumns = z.infer<typeof transcriptColumns>;

export function toColumns({ language, words }: Transcript): TranscriptColumns {
  const speakers = [...new Set(words.map((word) => word.speaker))];
  const index = new Map(speakers.map((name, at) => [name, at]));
  let before = 0;
  const step = words.map((word) => {
    const start = Math.round(word.start * 1000);
    const delta = start - before;
    before = start;
    return delta;
  });
  return {
    language,
    text: words.map((word) => word.text),
    step,
    length: words.map((word) => Math.max(0, Math.round(word.end * 1000) - Math.round(word.start * 1000))),
    ...(words.some((word) => word.confidence !== 1) && {
      confidence: words.map((word) => Math.round(word.confidence * 100)),
    }),
    speakers,
    ...(speakers.length > 1 && { speaker: words.map((word) => index.get(word.speaker) ?? 0) }),
    estimated: words.flatMap((word, at) => (word.timing === 'estimated' ? [at] : [])),
    ...(words.some((word) => word.error !== undefined) && { error: words.map(({ error = 0 }) => Math.round(error * 1000)) }),
    ...(words.some((word) => word.overlapped) && { overlapped: words.flatMap((word, at) => (word.overlapped ? [at] : [])) }),
  };
}

export function fromColumns(columns: TranscriptColumns): Transcript {
  const estimated = new Set(columns.estimated);
  const overlapped = new Set(columns.overlapped);
  let at = 0;
  const words = columns.text.map((text, k): Word => {
    at += columns.step[k] ?? 0;
    const error = columns.error?.[k] ?? 0;
    return {
      text,
      start: at / 1000,
      end: (at + (columns.length[k] ?? 0)) / 1000,
      confidence: (columns.confidence?.[k] ?? 100) / 100,
      speaker: columns.speakers[columns.speaker?.[k] ?? 0] ?? '',
      timing: estimated.has(k) ? 'estimated' : 'measured',
      ...(error > 0 && { error: error / 1000 }),
      ...(overlapped.has(k) && { overlapped: true }),
    };
  });
  return { language: columns.language, words };
}
