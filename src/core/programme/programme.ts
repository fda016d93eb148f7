import type { HurrySound } from '../detect/settings.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';

/**
 * A stretch of the episode clock that the programme keeps, played at `rate` times its speed. It lies in one recording: which one
 * follows from its place on the clock.
 */
export interface Piece extends Range {
  readonly rate: number;
  /** nothing is shown or heard, but the time is kept */
  readonly hole?: true;
  /** sound of a hurried piece */
  readonly sound?: HurrySound;
  /** file whose picture is seen, where that is not the recording's own and pieces are parted by what is seen */
  readonly angle?: string;
}

/** What remains, in the order in which it is heard, with the map between the clock's time and the programme's. */
export interface Programme {
  readonly pieces: readonly Piece[];
  /** indexes of the pieces in order of the clock; left out where they are heard in that order */
  readonly byClock?: readonly number[];
  /** programme time at which each piece starts */
  readonly offsets: readonly Seconds[];
  readonly length: Seconds;
}

/** Recordings from end to end as a programme, for playing and drawing them as recorded. */
export const asRecorded = (recordings: readonly Range[]): Programme =>
  programmeOf(recordings.map(({ start, end }) => ({ start, end, rate: 1 })));

export function programmeOf(pieces: readonly Piece[]): Programme {
  const offsets: number[] = [];
  let length = 0;
  let isInOrder = true;
  let before = Number.NEGATIVE_INFINITY;
  for (const piece of pieces) {
    offsets.push(length);
    length += (piece.end - piece.start) / piece.rate;
    if (piece.start < before) isInOrder = false;
    before = piece.start;
  }
  if (isInOrder) return { pieces, offsets, length };
  const byClock = pieces.map((_, k) => k).sort((a, b) => (pieces[a] as Piece).start - (pieces[b] as Piece).start);
  return { pieces, offsets, length, byClock };
}

/** Index of the piece that sounds at a moment of programme time; the last piece for the very end; -1 when empty. */
export function pieceAt({ pieces, offsets }: Programme, at: Seconds): number {
  return Math.min(pieces.length - 1, Math.max(0, firstAfter(offsets.length, (k) => offsets[k] as number, at) - 1));
}

/** Programme time to the clock's time. */
export function toSource(programme: Programme, at: Seconds): Seconds {
  const index = pieceAt(programme, at);
  const piece = programme.pieces[index];
  if (!piece) return 0;
  return Math.min(piece.end, piece.start + Math.max(0, at - (programme.offsets[index] as number)) * piece.rate);
}

/** Index of the piece that holds a moment of the clock, or else of the last that begins before it; -1 where there is none. */
export function pieceBefore({ pieces, byClock }: Programme, at: Seconds): number {
  const place = firstAfter(pieces.length, (k) => (pieces[byClock ? (byClock[k] as number) : k] as Piece).start, at) - 1;
  return byClock ? (byClock[place] ?? -1) : place;
}

/** Whether a moment of the clock is heard. */
export function isHeard(programme: Programme, at: Seconds): boolean {
  const piece = programme.pieces[pieceBefore(programme, at)];
  return piece !== undefined && at >= piece.start && at < piece.end;
}

/** The clock's time to programme time; a moment that is out maps to the seam it vanished in. */
export function toProgramme(programme: Programme, at: Seconds): Seconds {
  const { pieces, offsets, length, byClock } = programme;
  const index = pieceBefore(programme, at);
  const piece = pieces[index];
  if (!piece) return byClock ? (offsets[byClock[0] as number] as number) : 0;
  const within = (Math.min(at, piece.end) - piece.start) / piece.rate;
  return Math.min(length, (offsets[index] as number) + within);
}

/** The pieces of a programme that lie inside a stretch of the clock. */
export const piecesWithin = ({ pieces }: Programme, { start, end }: Range): Piece[] =>
  pieces
    .filter((piece) => piece.end > start && piece.start < end)
    .map((piece) => ({ ...piece, start: Math.max(start, piece.start), end: Math.min(end, piece.end) }));

/** Joins between pieces. */
export const seamCount = (programme: Programme): number => Math.max(0, programme.pieces.length - 1);
