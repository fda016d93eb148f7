import { type CaptionsFileFormat, parseText, tokenizeVTTCue, type VTTCue, type VTTNode } from 'media-captions';
import type { Range, Seconds } from '../../time/range.ts';
import type { Passage, RoughTranscript, Token } from '../../transcript/roughTranscript.ts';
import { isSaid, MAX_WORDS, namesSound, TranscriptError } from '../../transcript/word.ts';
import { repeatedWords, type Shown } from './rolling.ts';

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
  const read: Cue[] = [];
  let words = 0;
  for (const [k, cue] of cues.entries()) {
    if (!(cue.startTime >= 0 && cue.endTime > cue.startTime && cue.endTime <= MOST_SECONDS)) {
      notes.push(`Cue ${cue.id || k + 1}: its times are out of order or out of range.`);
      continue;
    }
    const one = cueOf(cue);
    words += one.words.length;
    if (words > MAX_WORDS) throw new TranscriptError(`The transcript holds more than ${MAX_WORDS} words.`);
    read.push(one);
  }
  const passages = passagesOf(read, notes);
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

/** A run of text in a cue; a time inside it (`<00:01.500>`) is that of the word behind it. */
interface Part {
  readonly at?: Seconds;
  readonly text: string;
}

/** A cue as it is shown. */
interface Cue extends Shown {
  /** as the file names who speaks; empty where it does not */
  readonly voice: string;
  readonly parts: readonly Part[];
}

/** What a cue shows; marks other than times go. */
function cueOf(cue: VTTCue): Cue {
  const parts: Part[] = [];
  let voice = '';
  const walk = (nodes: readonly VTTNode[], at: Seconds | undefined) => {
    for (const node of nodes) {
      if (node.type === 'text')
        parts.push({ text: withoutMarks(node.data, parts.length === 0), ...(at !== undefined && { at }) });
      else {
        if (node.type === 'v') voice ||= (node.voice ?? '').trim();
        walk(node.children, node.type === 'timestamp' ? node.time : at);
      }
    }
  };
  walk(tokenizeVTTCue(cue), undefined);
  const words = split(parts.map(({ text }) => text).join('')).map(({ text }) => text);
  return { start: cue.startTime, end: cue.endTime, voice, parts, words };
}

/** What is said in each cue: where captions roll, what it shows beside what was shown before. */
function passagesOf(cues: readonly Cue[], notes: string[]): Passage[] {
  const repeated = repeatedWords(cues);
  if (repeated) notes.push('Captions show what was shown before once more; it was read once.');
  const passages: Passage[] = [];
  for (const [k, cue] of cues.entries()) {
    const count = repeated?.[k] ?? 0;
    const last = passages.at(-1);
    // What is shown again goes on, until something else is said.
    if (count > 0 && count === cue.words.length) {
      if (last) passages[passages.length - 1] = { ...last, end: Math.max(last.end ?? 0, cue.end) };
      continue;
    }
    if (repeated && last?.end !== undefined && last.end > cue.start && cue.start > (last.start ?? 0))
      passages[passages.length - 1] = { ...last, end: cue.start };
    const { speaker, tokens } = tokensOf({ ...cue, parts: withoutFirst(cue.parts, count) });
    if (tokens.length > 0) passages.push({ speaker, start: cue.start, end: cue.end, tokens });
  }
  return withOwnTimes(withSpeakers(passages, cues));
}

/** Of captions that show word after word so many hold one, and so many there are at least. */
const MOST_SINGLE = 0.8;
const LEAST_SINGLE = 10;

/** Where captions show word after word, their times are those of the words. */
function withOwnTimes(passages: readonly Passage[]): Passage[] {
  const single = passages.filter(({ tokens }) => tokens.length === 1).length;
  if (single < Math.max(LEAST_SINGLE, MOST_SINGLE * passages.length)) return [...passages];
  return passages.map((passage) => {
    const { start, end, tokens } = passage;
    const [word] = tokens;
    if (!word || tokens.length > 1 || start === undefined || end === undefined) return passage;
    return { ...passage, tokens: [{ start, end, ...word }] };
  });
}

/** Names that stand in the text of captions are written where somebody else begins; one that comes once may be none. */
function withSpeakers(passages: readonly Passage[], cues: readonly Cue[]): Passage[] {
  const named = passages.filter(({ speaker }) => speaker !== '').length;
  if (named < 2 || cues.some(({ voice }) => voice !== '')) return [...passages];
  let before = '';
  return passages.map((passage) => {
    before = passage.speaker || before;
    return { ...passage, speaker: before };
  });
}

/** Text without its first words, so many of them. */
function withoutFirst(parts: readonly Part[], count: number): readonly Part[] {
  let left = count;
  return parts.map((part) => {
    if (left === 0) return part;
    const words = split(part.text).map(({ text }) => text);
    const gone = Math.min(left, words.length);
    left -= gone;
    return { ...part, text: `${words.slice(gone).join(' ')}${/\s$/.test(part.text) ? ' ' : ''}` };
  });
}

/** Who says a cue, and its words, with times where it has such inside. */
function tokensOf({ voice, parts: shown, ...cue }: Cue): { speaker: string; tokens: Token[] } {
  const first = shown.findIndex(({ text }) => text.trim() !== '');
  const parts = shown.slice(Math.max(0, first));
  const said = voice ? undefined : /^\s*\[([^\]:]{1,60})\]:?\s|^([\p{Lu}][^:.?!]{0,38}):\s/u.exec(parts[0]?.text ?? '');
  const name = said && !(said[1] && isNote(said[1])) ? (said[1] ?? said[2] ?? '').trim() : '';
  if (said && name && parts[0]) parts[0] = { ...parts[0], text: parts[0].text.slice(said[0].length) };
  const timed = parts.some((part) => part.at !== undefined);
  const tokens = timed ? timedTokens(parts, cue) : split(parts.map((part) => part.text).join(''));
  return { speaker: (voice || name).slice(0, 100), tokens };
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

function timedTokens(parts: readonly Part[], cue: Range): Token[] {
  // Marks such as italics part a text that has one time.
  const runs: Part[] = [];
  for (const part of parts) {
    const last = runs.at(-1);
    if (last && last.at === part.at) runs[runs.length - 1] = { ...last, text: last.text + part.text };
    else runs.push(part);
  }
  const tokens: Token[] = [];
  let from = cue.start;
  for (const [k, { at, text }] of runs.entries()) {
    from = Math.min(cue.end, Math.max(from, at ?? from));
    const next = runs.slice(k + 1).find((later) => later.at !== undefined && later.at > from)?.at;
    const until = Math.min(cue.end, next ?? cue.end);
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
