import { type CaptionsFileFormat, parseText, tokenizeVTTCue, type VTTCue, type VTTNode } from 'media-captions';
import type { Seconds } from '../../time/range.ts';
import type { Passage, RoughTranscript, Token } from '../../transcript/roughTranscript.ts';
import { isSaid, MAX_WORDS, namesSound, TranscriptError } from '../../transcript/word.ts';

/** Times past this are mistakes: eleven days. */
const MOST_SECONDS: Seconds = 1e6;
/** As many mistakes as anybody reads. */
const MOST_NOTES = 20;

/**
 * Cues of WebVTT or SubRip, both read by `media-captions`. A cue that cannot be read is left out and named by its line;
 * a file in which none can be read is an error.
 */
export async function readCues(text: string, type: CaptionsFileFormat): Promise<RoughTranscript> {
  const plain = text.replace(/^\uFEFF/, '').replace(/\r\n?/g, '\n');
  const { cues, errors } = await parseBlocks(plain, type);
  const notes = errors.map(({ line, message }) => `Line ${line}: ${message.replace(/ on line \d+$/, '')}.`);
  const lines = plain.split('\n');
  const passages: Passage[] = [];
  let words = 0;
  for (const cue of cues) {
    if (!(cue.startTime >= 0 && cue.endTime > cue.startTime && cue.endTime <= MOST_SECONDS)) {
      notes.push(`Cue ${cue.id || passages.length + 1}: its times are out of order or out of range.`);
      continue;
    }
    const { speaker, tokens } = tokensOf(cue);
    words += tokens.length;
    if (words > MAX_WORDS) throw new TranscriptError(`The transcript holds more than ${MAX_WORDS} words.`);
    if (tokens.length > 0) passages.push({ speaker, start: cue.startTime, end: cue.endTime, tokens });
  }
  if (passages.length === 0) throw new TranscriptError(noCues(lines, notes));
  const timings = lines.filter((line) => line.includes('-->')).length;
  if (timings > cues.length && notes.length === 0) notes.push(`${timings - cues.length} cues could not be read.`);
  return { passages, notes: notes.slice(0, MOST_NOTES) };
}

/** Lines that are parsed at once: the parser's time grows with more than their number. */
const LINES_AT_ONCE = 3000;

/** Parses a file in parts that end at empty lines, where cues end. */
async function parseBlocks(text: string, type: CaptionsFileFormat) {
  const lines = text.split('\n');
  const cues: VTTCue[] = [];
  const errors: { line: number; message: string }[] = [];
  for (let from = 0; from < lines.length; ) {
    let to = from + LINES_AT_ONCE;
    while (to < lines.length && lines[to]?.trim() !== '') to++;
    // Each part of WebVTT needs the head that the file has once.
    const head = from > 0 && type === 'vtt' ? ['WEBVTT', ''] : [];
    const block = [...head, ...lines.slice(from, to)].join('\n');
    const parsed = await parseText(block, { type, strict: false, errors: true });
    cues.push(...parsed.cues);
    for (const { line, message } of parsed.errors) errors.push({ line: line - head.length + from, message });
    from = to + 1;
  }
  return { cues, errors };
}

function noCues(lines: readonly string[], notes: readonly string[]): string {
  const first = lines.findIndex((line) => line.includes('-->'));
  const why = first < 0 ? 'no line has times such as 00:01.000 --> 00:02.500' : `the times on line ${first + 1} cannot be used`;
  return `No cue with words was found: ${notes[0] ?? `${why}.`}`;
}

/** Words of a cue. Times inside it (`<00:01.500>`) start the word behind them; marks of other kinds go. */
function tokensOf(cue: VTTCue): { speaker: string; tokens: Token[] } {
  const parts: { at?: Seconds; text: string }[] = [];
  let speaker = '';
  const walk = (nodes: readonly VTTNode[], at: Seconds | undefined) => {
    for (const node of nodes) {
      if (node.type === 'text')
        parts.push({ text: withoutMarks(node.data, parts.length === 0), ...(at !== undefined && { at }) });
      else {
        if (node.type === 'v') speaker ||= (node.voice ?? '').trim();
        walk(node.children, node.type === 'timestamp' ? node.time : at);
      }
    }
  };
  walk(tokenizeVTTCue(cue), undefined);
  const said = speaker ? undefined : /^\s*\[([^\]:]{1,60})\]:?\s|^([\p{Lu}][^:.?!]{0,38}):\s/u.exec(parts[0]?.text ?? '');
  if (said && parts[0] && !(said[1] && isNote(said[1]))) {
    speaker = (said[1] ?? said[2] ?? '').trim();
    parts[0].text = parts[0].text.slice(said[0].length);
  }
  const timed = parts.some((part) => part.at !== undefined);
  const tokens = timed ? timedTokens(parts, cue) : split(parts.map((part) => part.text).join(''));
  return { speaker: speaker.slice(0, 100), tokens };
}

/**
 * Text without what says how or where it is shown: codes in braces (`{\an8}`), their breaks (`\N`), and the dash or arrows before a line that
 * somebody else says.
 */
const withoutMarks = (text: string, isFirst: boolean): string =>
  `${isFirst ? '\n' : ''}${text}`
    .replace(/\{\\[^}]{0,200}\}/g, '')
    .replace(/\\[Nnh]/g, '\n')
    .replace(/\n\s*(?:[-–—]+|>{2,})\s+/g, '\n')
    .slice(isFirst ? 1 : 0);

/** Whether what stands in brackets at the start of a cue is called as nobody is: `Door opens`. Voices that a recogniser counts are `speaker 1`. */
const isNote = (text: string): boolean => namesSound(text) || (/(?:^|\s)\p{Ll}/u.test(text) && !/\d$/.test(text));

interface TimedText {
  readonly at: Seconds | undefined;
  readonly text: string;
}

function timedTokens(parts: readonly { at?: Seconds; text: string }[], cue: VTTCue): Token[] {
  // Marks such as italics part a text that has one time.
  const runs: TimedText[] = [];
  for (const { at, text } of parts) {
    const last = runs.at(-1);
    if (last && last.at === at) runs[runs.length - 1] = { at, text: last.text + text };
    else runs.push({ at, text });
  }
  const tokens: Token[] = [];
  let from = cue.startTime;
  for (const [k, { at, text }] of runs.entries()) {
    from = Math.min(cue.endTime, Math.max(from, at ?? from));
    const next = runs.slice(k + 1).find((later) => later.at !== undefined && later.at > from)?.at;
    const until = Math.min(cue.endTime, next ?? cue.endTime);
    const words = split(text);
    const step = (until - from) / words.length;
    for (const [n, word] of words.entries()) tokens.push({ ...word, start: from + n * step, end: from + (n + 1) * step });
    if (words.length > 0) from = until;
  }
  return tokens;
}

/** Text at its white space, with nothing in it that is not to be seen. A note of what else is heard stays one: `(upbeat music)`. */
export const split = (text: string): Token[] =>
  (
    text
      .replace(/[\p{Cc}\p{Cf}]/gu, ' ')
      .trim()
      .match(NOTES_AND_WORDS) ?? []
  )
    .flatMap((part) => (isSaid(part) ? part.split(BETWEEN_WORDS) : [part]))
    .filter((word) => word !== '')
    .map((word) => ({ text: word.slice(0, 200) }));

/** White space, or a dash that stands for a break between two words: `we—we went`. */
const BETWEEN_WORDS = /\s+|(?<=\p{L}(?:—|--))(?=\p{L})/u;
/** No note is longer than this many signs. */
const NOTES_AND_WORDS = /\[[^\]]{1,60}\]\S*|\([^)]{1,60}\)\S*|\S+/gu;
