import { z } from 'zod';
import { parseJson } from '../../contract/json.ts';
import { withWholeNotes } from '../../transcript/notes.ts';
import { MAX_WORDS, type Transcript, TranscriptError, type Word } from '../../transcript/word.ts';
import type { TranscriptFormat } from './format.ts';

const MAX_SECONDS = 1_000_000;

/** Recognisers round and pad, so that a first word may start a moment before the recording does. */
const seconds = z
  .number()
  .min(-1)
  .max(MAX_SECONDS)
  .transform((at) => Math.max(0, at));

const wordInput = z.object({
  text: z.string().max(200),
  start: seconds,
  end: seconds,
  confidence: z.number().min(0).max(1).default(1),
  speaker: z.string().max(100).default(''),
  timing: z.enum(['measured', 'estimated']).default('measured'),
  error: z.number().min(0).max(60).optional(),
  overlapped: z.literal(true).optional(),
});

const transcriptInput = z.object({
  language: z.string().min(1).max(35).optional(),
  words: z.array(wordInput).max(MAX_WORDS),
});

/** Words with their times, and their language where the file says it. */
interface WordsAsRead extends Pick<Transcript, 'words'> {
  readonly language?: string | undefined;
}

/**
 * Reads our own transcript JSON: `{ language?, words: [{ text, start, end, confidence?, speaker?, timing?, error?, overlapped? }] }`.
 * Words are put in order of start; blank words are dropped.
 * @throws TranscriptError naming the first word that is wrong
 */
export function readTranscript(json: string): WordsAsRead {
  const value = parseJson(json, (why) => new TranscriptError(`The transcript is not JSON: ${why}`));
  const parsed = transcriptInput.safeParse(value);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    const where = issue?.path.length ? ` at ${issue.path.join('.')}` : '';
    throw new TranscriptError(`The transcript does not fit${where}: ${issue?.message ?? 'unknown form'}`);
  }
  const words: Word[] = [];
  for (const [index, word] of parsed.data.words.entries()) {
    if (word.end < word.start)
      throw new TranscriptError(`Word ${index + 1} (${JSON.stringify(word.text)}) ends before it starts.`);
    const text = word.text.trim();
    // Whole milliseconds, as they travel to the browser: the same words must give the same cut list everywhere.
    if (text) words.push({ ...word, text, start: Math.round(word.start * 1000) / 1000, end: Math.round(word.end * 1000) / 1000 });
  }
  words.sort((a, b) => a.start - b.start || a.end - b.end);
  return { language: parsed.data.language, words: withWholeNotes(words) };
}

/** Our own transcript: every word with its times, confidence and speaker. */
export const wordsJson: TranscriptFormat = {
  id: 'json',
  label: 'Words as JSON',
  help: 'Everything: each word with its times, confidence and speaker.',
  mime: 'application/json; charset=utf-8',
  // A time may stand in brackets: `[0:12] take the key`.
  looksLike: (text) => /^\uFEFF?\s*(?:\{|\[\s*[{[\]"])/.test(text),
  async read(file) {
    const { language, words } = readTranscript(file);
    const passages = words.map((word) => ({ speaker: word.speaker, start: word.start, end: word.end, tokens: [word] }));
    return { ...(language && { language }), passages, notes: [] };
  },
  write: ({ language, words }) => `${JSON.stringify({ language, words }, null, 1)}\n`,
};
