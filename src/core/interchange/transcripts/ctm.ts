import { withWholeNotes } from '../../transcript/notes.ts';
import type { Passage, RoughTranscript, Token } from '../../transcript/roughTranscript.ts';
import { MAX_WORDS, type Transcript, TranscriptError } from '../../transcript/word.ts';
import type { TranscriptFormat } from './format.ts';

const MOST_SECONDS = 1e6;

/**
 * CTM, the time-marked words of speech evaluation (NIST SCTK): `recording channel start length word [confidence]` a line.
 * The channel is the speaker. `;;` starts a remark.
 */
export const ctm: TranscriptFormat = {
  id: 'ctm',
  label: 'CTM',
  help: 'A word a line with its start and length, as recognisers write it.',
  mime: 'text/plain; charset=utf-8',
  looksLike: (text) => {
    const line = text.split('\n').find((one) => one.trim() !== '' && !one.startsWith(';;'));
    return /^\S+\s+\S+\s+\d+(\.\d+)?\s+\d+(\.\d+)?\s+\S+(\s+[\d.]+)?\s*$/.test(line?.replace(/^\uFEFF/, '') ?? '');
  },
  read,
  write({ words }: Transcript): string {
    const lines = words.map(({ speaker, start, end, text, confidence }) =>
      ['recording', speaker.replaceAll(/\s+/g, '_') || '1', start.toFixed(3), (end - start).toFixed(3)]
        .concat(text.replaceAll(/\s+/g, '_'), confidence.toFixed(2))
        .join(' '),
    );
    return `${lines.join('\n')}\n`;
  },
};

async function read(text: string): Promise<RoughTranscript> {
  const passages: { speaker: string; start: number; end: number; tokens: Token[] }[] = [];
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n?|\n/);
  if (lines.length > MAX_WORDS) throw new TranscriptError(`The transcript holds more than ${MAX_WORDS} words.`);
  for (const [k, line] of lines.entries()) {
    if (line.trim() === '' || line.startsWith(';;')) continue;
    const [, channel, from, length, word, sure] = line.trim().split(/\s+/);
    const [start, lasts] = [Number(from), Number(length)];
    if (word === undefined || !(start >= -1 && start <= MOST_SECONDS) || !(lasts >= 0 && lasts <= MOST_SECONDS))
      throw new TranscriptError(`Line ${k + 1} is no word of a CTM file: recording, channel, start, length, word are needed.`);
    const confidence = sure === undefined || !(Number(sure) >= 0 && Number(sure) <= 1) ? 1 : Number(sure);
    const token = { text: word.slice(0, 200), start: Math.max(0, start), end: Math.max(0, start) + lasts, confidence };
    const speaker = channel === '1' || channel === undefined ? '' : channel.replaceAll('_', ' ');
    const last = passages.at(-1);
    if (last && last.speaker === speaker) last.tokens.push(token);
    else passages.push({ speaker, start: token.start, end: token.end, tokens: [token] });
  }
  if (passages.length === 0) throw new TranscriptError('The file holds no words.');
  const spans = passages.map(
    (passage): Passage => ({ ...passage, tokens: withWholeNotes(passage.tokens), end: Math.max(...ends(passage.tokens)) }),
  );
  return { passages: spans, notes: [] };
}

const ends = (tokens: readonly Token[]): number[] => tokens.slice(-50).map((token) => token.end ?? 0);
