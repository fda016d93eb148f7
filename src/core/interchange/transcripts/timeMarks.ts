import type { Seconds } from '../../time/range.ts';

/** A line of text without its time. */
export interface MarkedLine {
  /** what is left of it, which may be nothing */
  readonly text: string;
  /** who speaks, where a name stands before the time */
  readonly speaker?: string | undefined;
  /** when what is said from here on begins; undefined where the line has no time of its own */
  readonly start?: Seconds | undefined;
  readonly end?: Seconds | undefined;
}

/** Text in which times stand. */
interface MarkedText {
  readonly lines: readonly MarkedLine[];
  /** how many lines stood above the first time */
  readonly above: number;
}

const TIME = String.raw`(?:\d{1,3}:)?\d{1,3}:\d\d(?:[.,]\d{1,3})?`;
/** `00:12`, `[00:12]`, `(0:00:12.5 --> 0:00:14.0)`, `0:00:12.5,0:00:14.0`. */
const SPAN = new RegExp(String.raw`(?<![\w.,:])[[(<]?(${TIME})(?:\s*(?:-->|[-–—,]|\bto\b)\s*(${TIME}))?(?![\w:])([\])>])?`, 'u');
/** A time alone. */
const CELL = new RegExp(`^${SPAN.source}$`, 'u');
/** A name of up to four words, and what parts it from a time. */
const NAME = /^(\p{L}[\p{L}\p{M}\d.'’_-]*(?: [\p{L}\p{M}\d.'’_-]+){0,3}):?\s*[|,–—-]?$/u;
/** What parts a time from what is said behind it. */
const PARTING = /^\s*[-–—:|]?(?=\s)|^:$/u;
/** Labels: `0.16 <tab> 2.31 <tab> text`, in seconds; in thousandths below a line that names such columns. */
const COLUMNS = /^\s*(\d{1,9}(?:\.\d+)?)\t(\d{1,9}(?:\.\d+)?)\t(.*)$/;
const HEAD = /^\s*start\tend\ttext\s*$/i;

const LEAST_MARKS = 2;
/** Of lines with a time so many do not go back. */
const MOST_ORDERED = 0.9;

/**
 * Lines of a text in which times stand, as people and recognisers note what is said when: at the beginning of a line, behind the name of who speaks,
 * alone above what is said, or in columns parted by tabs. What stands above the first time is no part of it.
 * @returns undefined where the text has no such times
 */
export function markedLines(lines: readonly string[]): MarkedText | undefined {
  const marked = inColumns(lines) ?? lines.map((line) => markedRow(line) ?? markedLine(line));
  const starts = marked.flatMap(({ start }) => (start === undefined ? [] : [start]));
  const ordered = starts.filter((start, k) => k === 0 || start >= (starts[k - 1] as Seconds)).length;
  if (starts.length < LEAST_MARKS || ordered < MOST_ORDERED * starts.length) return undefined;
  const first = marked.findIndex(({ start }) => start !== undefined);
  return { lines: marked.slice(first), above: marked.slice(0, first).filter(({ text }) => text.trim() !== '').length };
}

/** A row of a table with cells for times, often one for who speaks, and the last one for what is said. */
function markedRow(line: string): MarkedLine | undefined {
  const cells = line.split('\t').map((cell) => cell.trim());
  const times = cells.map((cell) => CELL.exec(cell));
  const [first, second] = times.filter((time) => time !== null);
  const others = cells.filter((cell, k) => cell !== '' && !times[k]);
  const name = others.length > 1 ? NAME.exec(others[0] as string)?.[1] : undefined;
  if (!first || times.at(-1) || !(name || second)) return undefined;
  const until = first[2] ?? second?.[1];
  return {
    text: others.slice(name ? 1 : 0).join(' '),
    speaker: name,
    start: secondsOf(first[1] as string),
    ...(until && { end: secondsOf(until) }),
  };
}

function markedLine(line: string): MarkedLine {
  const found = SPAN.exec(line);
  if (!found) return { text: line };
  const [span, from, to, bracket] = found;
  const before = line.slice(0, found.index).trim();
  const behind = line.slice(found.index + span.length);
  const name = NAME.exec(before)?.[1];
  // Between words a time is one of them: "we open at 10:30".
  const isMark = before === '' || (name && (bracket || /^:?\s*$/.test(behind)));
  if (!isMark) return { text: line };
  const text = behind.replace(PARTING, '').trim();
  return { text, speaker: name, start: secondsOf(from as string), ...(to && { end: secondsOf(to) }) };
}

function inColumns(lines: readonly string[]): readonly MarkedLine[] | undefined {
  const written = lines.filter((line) => line.trim() !== '');
  const isNamed = HEAD.test(written[0] ?? '');
  const labels = written.slice(isNamed ? 1 : 0).map((line) => COLUMNS.exec(line));
  if (labels.length === 0 || labels.includes(null)) return undefined;
  const unit = isNamed ? 1000 : 1;
  return labels.map((label) => {
    const [, from, to, text = ''] = label as RegExpExecArray;
    return { text, start: Number(from) / unit, end: Number(to) / unit };
  });
}

/** `1:02:03.5` or `2:03` in seconds. */
const secondsOf = (time: string): Seconds =>
  time
    .replace(',', '.')
    .split(':')
    .reduce((sum, part) => 60 * sum + Number(part), 0);
