import { quantile } from '../../numbers/quantile.ts';
import type { Seconds } from '../../time/range.ts';
import type { Passage, RoughTranscript, Token } from '../../transcript/roughTranscript.ts';
import { MAX_WORDS, type Transcript, TranscriptError } from '../../transcript/word.ts';
import { split } from './cues.ts';
import type { TranscriptFormat } from './format.ts';
import { paragraphsOf } from './lines.ts';
import { type MarkedLine, markedLines } from './timeMarks.ts';

/** A name and a colon, alone on a line or before what is said. */
const SPEAKER = /^\s*([\p{L}][\p{L}\p{M}\d .'’_-]{0,59}):(?:\s+|$)/u;

/** Plain text: paragraphs, each with the speaker's name before a colon where there are several, and with times where such are noted. */
export const text: TranscriptFormat = {
  id: 'txt',
  label: 'Plain text',
  help: 'The words alone, in paragraphs.',
  mime: 'text/plain; charset=utf-8',
  endings: ['text', 'md'],
  looksLike: () => true,
  async read(file: string): Promise<RoughTranscript> {
    const written = file.replace(/^\uFEFF/, '').split(/\r\n?|\n/);
    const marked = markedLines(written);
    const lines = (marked?.lines ?? written.map((line): MarkedLine => ({ text: line }))).map((line) => ({
      ...line,
      name: line.speaker === undefined ? SPEAKER.exec(line.text)?.[1]?.trim() : undefined,
    }));
    // A colon makes a name only when it does so again: "Remember: oil it last" is one sentence.
    const times = new Map<string, number>();
    for (const { name } of lines) if (name) times.set(name, (times.get(name) ?? 0) + 1);
    const isName = (name: string | undefined) =>
      name !== undefined && ((times.get(name) ?? 0) > 1 || times.size > 1) && name.split(/\s+/).length <= 4;
    let speaker = '';
    const said = lines.map(({ text: line, speaker: noted, name, start, end }): Passage => {
      const named = isName(name);
      speaker = noted ?? (named ? (name ?? '') : speaker);
      return { speaker, tokens: split(named ? line.replace(SPEAKER, '') : line), ...(start !== undefined && { start, end }) };
    });
    const passages = marked ? underMarks(said) : said.filter(({ tokens }) => tokens.length > 0);
    const words = passages.reduce((sum, passage) => sum + passage.tokens.length, 0);
    if (words === 0) throw new TranscriptError('The file holds no words.');
    if (words > MAX_WORDS) throw new TranscriptError(`The transcript holds more than ${MAX_WORDS} words.`);
    const { above = 0 } = marked ?? {};
    return { passages, notes: above > 0 ? [`What stands above the first time was left out (lines: ${above}).`] : [] };
  },
  write({ words }: Transcript): string {
    const several = new Set(words.map((word) => word.speaker)).size > 1;
    const paragraphs = paragraphsOf(words).map(
      ({ speaker, words: said }) => `${several && speaker ? `${speaker}: ` : ''}${said.map((word) => word.text).join(' ')}`,
    );
    return `${paragraphs.join('\n\n')}\n`;
  },
};

/** Between two times more is said than can be looked for at once: such times say too little. */
const MOST_BETWEEN: Seconds = 20;

/** A line with a time, while those below it that have none are gathered. */
interface Mark extends Passage {
  speaker: string;
  readonly tokens: Token[];
}

/**
 * Lines with times, each with those below it that have none; what has no end ends where the next begins. Without times where these say too
 * little of where words are: half of them are far apart, or several people speak between two.
 */
function underMarks(lines: readonly Passage[]): Passage[] {
  const marks: Mark[] = [];
  let areSpeakersMixed = false;
  for (const line of lines) {
    const last = marks.at(-1);
    if (line.start !== undefined || !last) {
      marks.push({ ...line, tokens: [...line.tokens] });
      continue;
    }
    if (last.tokens.length === 0) last.speaker = line.speaker;
    areSpeakersMixed ||= line.tokens.length > 0 && line.speaker !== last.speaker;
    for (const token of line.tokens) last.tokens.push(token);
  }
  const spans = withEnds(marks);
  const lengths = spans.flatMap(({ start = 0, end }) => (end === undefined ? [] : [end - start]));
  const said = spans.filter(({ tokens }) => tokens.length > 0);
  if (!areSpeakersMixed && quantile(lengths, 0.5) <= MOST_BETWEEN) return said;
  return lines.flatMap(({ speaker, tokens }) => (tokens.length > 0 ? [{ speaker, tokens }] : []));
}

/** What has no end ends where something begins later; lines that are noted at one moment share the time until then. */
function withEnds(marks: readonly Passage[]): Passage[] {
  const spans: Passage[] = [];
  for (let from = 0, to: number; from < marks.length; from = to) {
    const { start = 0 } = marks[from] as Passage;
    for (to = from + 1; to < marks.length && (marks[to]?.start ?? 0) <= start; ) to++;
    const together = marks.slice(from, to);
    const next = marks[to]?.start;
    const counts = together.map(({ tokens }) => tokens.length);
    const all = counts.reduce((sum, count) => sum + count, 0);
    const at = (count: number) => (next === undefined ? undefined : start + ((next - start) * count) / Math.max(1, all));
    let before = 0;
    for (const mark of together) {
      const share = { start: together.length > 1 && next !== undefined ? at(before) : mark.start };
      before += mark.tokens.length;
      spans.push({ ...mark, ...share, end: mark.end ?? at(before) });
    }
  }
  return spans;
}
