import type { Move } from '@/core/decisions/layout.ts';
import { indexAt, momentLabel, type Recording } from '@/core/sources/recording.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import type { Ink } from './ink.ts';
import type { RowPart } from './rows.ts';

/** How the programme is laid out, as far as rows show it. */
export interface RowLayout {
  /** all that are shown, in order of the clock, with their names */
  readonly recordings: readonly NamedRecording[];
  readonly moves: readonly Move[];
  readonly breaks: readonly TitledBreak[];
  /** where another picture is seen from */
  readonly pictures: readonly NamedPicture[];
  /** what is wanted */
  readonly wanted: readonly Range[];
  /** only what is wanted makes the programme */
  readonly collecting: boolean;
  /** a passage that was lifted, and the place that it would be set down at */
  readonly lifted: Range | undefined;
  readonly place: Seconds | undefined;
}

export interface NamedRecording extends Recording {
  readonly name: string;
}

export interface NamedPicture {
  readonly at: Seconds;
  readonly name: string;
}

export interface TitledBreak {
  readonly at: Seconds;
  readonly title: string;
}

/** What a row shows of the layout, as text that is the same when the row would look the same. */
export function layoutKey(layout: RowLayout, parts: readonly RowPart[], isWhole: boolean): string {
  const isHere = ({ start, end }: Range) => parts.some((part) => start <= part.end && end >= part.start);
  const at = (moment: Seconds) => isHere({ start: moment, end: moment });
  return [
    parts.map((part) => beginsIn(layout.recordings, part)?.name ?? '').join(),
    ...layout.moves
      .filter(({ about, to }) => isHere(about) || at(to))
      .map(({ id, about }) => `${id} ${about.start} ${about.end}`),
    ...layout.breaks.filter((one) => at(one.at)).map((one) => `${one.at} ${one.title}`),
    ...layout.pictures.filter((one) => at(one.at)).map((one) => `${one.at} ${one.name}`),
    ...layout.wanted.filter(isHere).map(({ start, end }) => `${start}-${end}`),
    layout.collecting && isWhole ? 'collecting' : '',
    layout.lifted && isHere(layout.lifted) ? `lifted ${layout.lifted.start} ${layout.lifted.end}` : '',
    layout.place !== undefined && at(layout.place) ? `place ${layout.place}` : '',
  ].join(';');
}

/** The recording that begins with a part of a row: what stood before it is of another one. */
export function beginsIn(recordings: readonly NamedRecording[], part: RowPart): NamedRecording | undefined {
  if (recordings.length < 2 || part.after === undefined) return undefined;
  const own = indexAt(recordings, part.start);
  const before = part.after === 'nothing' ? -1 : indexAt(recordings, part.after);
  return own === before ? undefined : recordings[own];
}

type ToX = (at: Seconds) => number;

/** Lanes in which the layout is drawn, in CSS pixels from the top of a row. */
const WANTED_TOP = 82;
const MOVED_TOP = 79;
/** Middles of the lines that labels are written on: where one is taken, the next is used. */
const LABEL_LINES = [25, 38, 50] as const;
const LABEL_HEIGHT = 12;

/** What is written on each line of a row already, up to where. */
export type TakenLines = number[];
const NEAR: Seconds = 0.002;

/** Where another recording begins: a quiet line over the whole row, with its name. */
export function drawBeginning(
  c: CanvasRenderingContext2D,
  layout: RowLayout,
  ink: Ink,
  part: RowPart,
  toX: ToX,
  height: number,
  taken: TakenLines,
): void {
  const recording = beginsIn(layout.recordings, part);
  if (!recording) return;
  const x = Math.round(toX(part.start)) + 0.5;
  c.strokeStyle = ink.out;
  c.lineWidth = 1;
  c.beginPath();
  c.moveTo(x, 0);
  c.lineTo(x, height);
  c.stroke();
  label(c, shortened(recording.name), x + 5, ink.out, ink, taken);
}

/** Wanted passages stand on a firm rail. */
export function drawWanted(c: CanvasRenderingContext2D, { wanted }: RowLayout, ink: Ink, part: RowPart, toX: ToX): void {
  c.fillStyle = ink.kept;
  for (const range of wanted) {
    const [from, to] = [Math.max(part.start, range.start), Math.min(part.end, range.end)];
    if (to <= from) continue;
    c.fillRect(toX(from), WANTED_TOP, toX(to) - toX(from), 3);
    if (range.start >= part.start) c.fillRect(toX(from), WANTED_TOP - 5, 2, 8);
    if (range.end <= part.end) c.fillRect(toX(to) - 2, WANTED_TOP - 5, 2, 8);
  }
}

/**
 * A passage that was moved stands on a dashed rail that says where it is heard (as recorded) or where it was said (as programme). The
 * other place, which it came from or went to, is marked by a wedge.
 */
export function drawMoves(
  c: CanvasRenderingContext2D,
  { moves, recordings }: RowLayout,
  ink: Ink,
  part: RowPart,
  toX: ToX,
  isProgramme: boolean,
  taken: TakenLines,
): void {
  for (const { about, to } of moves) {
    const [from, until] = [Math.max(part.start, about.start), Math.min(part.end, about.end)];
    if (until > from) {
      const [left, right] = [toX(from), toX(until)];
      c.strokeStyle = ink.hand;
      c.lineWidth = 2;
      c.setLineDash([5, 3]);
      c.beginPath();
      c.moveTo(left, MOVED_TOP);
      c.lineTo(right, MOVED_TOP);
      c.stroke();
      c.setLineDash([]);
      if (about.start >= part.start - NEAR) {
        c.fillStyle = ink.hand;
        c.fillRect(left, 0, 1.5, MOVED_TOP);
        const text = isProgramme
          ? `moved from ${momentLabel(recordings, about.start)}`
          : `goes to ${momentLabel(recordings, to)}`;
        label(c, text, left + 5, ink.hand, ink, taken);
      }
    }
    const isPlace = to >= part.start - NEAR && to <= part.end + NEAR;
    const wasHere = isProgramme && Math.abs(part.start - about.end) < NEAR;
    if (!isProgramme && isPlace) wedge(c, toX(to), ink, `from ${momentLabel(recordings, about.start)}`);
    else if (wasHere) wedge(c, toX(part.start), ink, `gone to ${momentLabel(recordings, to)}`);
  }
}

const beginningIn = <T extends { readonly at: Seconds }>(marks: readonly T[], { start, end }: RowPart): readonly T[] =>
  marks.filter(({ at }) => at >= start - NEAR && at < end - NEAR);

/** Parts begin at a double line, with their titles. */
export function drawBreaks(
  c: CanvasRenderingContext2D,
  { breaks }: RowLayout,
  ink: Ink,
  part: RowPart,
  toX: ToX,
  height: number,
  taken: TakenLines,
): void {
  for (const { at, title } of beginningIn(breaks, part)) {
    const x = Math.round(toX(at));
    c.fillStyle = ink.pause;
    c.fillRect(x, 0, 1, height);
    c.fillRect(x + 3, 0, 1, height);
    label(c, shortened(title), x + 8, ink.pause, ink, taken);
  }
}

/** Another picture is seen from a small frame on, with its name. */
export function drawPictures(
  c: CanvasRenderingContext2D,
  { pictures }: RowLayout,
  ink: Ink,
  part: RowPart,
  toX: ToX,
  height: number,
  taken: TakenLines,
): void {
  for (const { at, name } of beginningIn(pictures, part)) {
    const x = Math.round(toX(at)) + 0.5;
    c.strokeStyle = ink.out;
    c.lineWidth = 1;
    c.setLineDash([1, 3]);
    c.beginPath();
    c.moveTo(x, 0);
    c.lineTo(x, height);
    c.stroke();
    c.setLineDash([]);
    c.strokeRect(x, 1.5, 10, 7);
    label(c, shortened(name), x + 5, ink.out, ink, taken);
  }
}

/** What was lifted, and where it would be set down. */
export function drawLifted(
  c: CanvasRenderingContext2D,
  { lifted, place }: RowLayout,
  ink: Ink,
  part: RowPart,
  toX: ToX,
  height: number,
): void {
  if (lifted) {
    const [from, to] = [Math.max(part.start, lifted.start), Math.min(part.end, lifted.end)];
    if (to > from) {
      c.strokeStyle = ink.hand;
      c.lineWidth = 1.5;
      c.setLineDash([3, 3]);
      c.strokeRect(toX(from), 1, toX(to) - toX(from), height - 4);
      c.setLineDash([]);
    }
  }
  if (place === undefined || place < part.start - NEAR || place > part.end + NEAR) return;
  c.fillStyle = ink.hand;
  const x = toX(place);
  c.fillRect(x - 1, 0, 3, height - 2);
  c.fillRect(x - 4, 0, 9, 2);
  c.fillRect(x - 4, height - 4, 9, 2);
}

function wedge(c: CanvasRenderingContext2D, x: number, ink: Ink, text: string): void {
  c.fillStyle = ink.hand;
  c.beginPath();
  c.moveTo(x - 5, MOVED_TOP + 5);
  c.lineTo(x + 5, MOVED_TOP + 5);
  c.lineTo(x, MOVED_TOP - 3);
  c.fill();
  write(c, text, x + 7, MOVED_TOP + 1, ink.hand, ink);
}

const MOST_SIGNS = 28;
/** A long title says in the tray how it goes on. */
export const shortened = (text: string, most = MOST_SIGNS): string =>
  text.length > most ? `${text.slice(0, most - 1).trimEnd()}…` : text;

/** A few words on the first line that is free. */
export function label(c: CanvasRenderingContext2D, text: string, x: number, colour: string, ink: Ink, taken: TakenLines): void {
  c.font = ink.timeFont;
  const width = c.measureText(text).width;
  const line = Math.max(
    0,
    LABEL_LINES.findIndex((_, k) => (taken[k] ?? 0) <= x),
  );
  taken[line] = x + width + 6;
  write(c, text, x, LABEL_LINES[line] as number, colour, ink);
}

/** Written on thinned paper: legible over waves, which shine through, and nothing runs through the letters as if they were struck. */
export function write(c: CanvasRenderingContext2D, text: string, x: number, middle: number, colour: string, ink: Ink): void {
  c.font = ink.timeFont;
  c.textAlign = 'left';
  c.textBaseline = 'middle';
  c.globalAlpha = 0.85;
  c.fillStyle = ink.paper;
  c.fillRect(x - 2, middle - LABEL_HEIGHT / 2, c.measureText(text).width + 4, LABEL_HEIGHT);
  c.globalAlpha = 1;
  c.fillStyle = colour;
  c.fillText(text, x, middle);
}
