import type { RoughTranscript } from '../../transcript/roughTranscript.ts';
import { MAX_WORDS, type Transcript, TranscriptError } from '../../transcript/word.ts';
import { split } from './cues.ts';
import type { TranscriptFormat } from './format.ts';
import { paragraphsOf } from './lines.ts';

/** A name and a colon, alone on a line or before what is said. */
const SPEAKER = /^\s*([\p{L}][\p{L}\p{M}\d .'’_-]{0,59}):(?:\s+|$)/u;

/** Plain text: paragraphs, each with the speaker's name before a colon where there are several. */
export const text: TranscriptFormat = {
  id: 'txt',
  label: 'Plain text',
  help: 'The words alone, in paragraphs.',
  mime: 'text/plain; charset=utf-8',
  endings: ['text', 'md'],
  looksLike: () => true,
  async read(file: string): Promise<RoughTranscript> {
    const lines = file
      .replace(/^\uFEFF/, '')
      .split(/\r\n?|\n/)
      .map((line) => ({ line, name: SPEAKER.exec(line)?.[1]?.trim() }));
    // A colon makes a name only when it does so again: "Remember: oil it last" is one sentence.
    const times = new Map<string, number>();
    for (const { name } of lines) if (name) times.set(name, (times.get(name) ?? 0) + 1);
    const isName = (name: string | undefined) =>
      name !== undefined && ((times.get(name) ?? 0) > 1 || times.size > 1) && name.split(/\s+/).length <= 4;
    let speaker = '';
    const passages = lines.flatMap(({ line, name }) => {
      const named = isName(name);
      if (named) speaker = name ?? '';
      const tokens = split(named ? line.replace(SPEAKER, '') : line);
      return tokens.length > 0 ? [{ speaker, tokens }] : [];
    });
    const words = passages.reduce((sum, passage) => sum + passage.tokens.length, 0);
    if (words === 0) throw new TranscriptError('The file holds no words.');
    if (words > MAX_WORDS) throw new TranscriptError(`The transcript holds more than ${MAX_WORDS} words.`);
    return { passages, notes: [] };
  },
  write({ words }: Transcript): string {
    const several = new Set(words.map((word) => word.speaker)).size > 1;
    const paragraphs = paragraphsOf(words).map(
      ({ speaker, words: said }) => `${several && speaker ? `${speaker}: ` : ''}${said.map((word) => word.text).join(' ')}`,
    );
    return `${paragraphs.join('\n\n')}\n`;
  },
};
