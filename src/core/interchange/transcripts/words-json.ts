import { readTranscript } from '../../transcript/word.ts';
import type { TranscriptFormat } from './format.ts';

/** Our own transcript: every word with its times, confidence and speaker. */
export const wordsJson: TranscriptFormat = {
  id: 'json',
  label: 'Words as JSON',
  help: 'Everything: each word with its times, confidence and speaker.',
  mime: 'application/json; charset=utf-8',
  looksLike: (text) => /^\uFEFF?\s*[{[]/.test(text),
  async read(file) {
    const { language, words } = readTranscript(file);
    const passages = words.map((word) => ({ speaker: word.speaker, start: word.start, end: word.end, tokens: [word] }));
    return { language, passages, notes: [] };
  },
  write: ({ language, words }) => `${JSON.stringify({ language, words }, null, 1)}\n`,
};
