import type { AngleStretch } from '../decisions/angles.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import { type Piece, type Programme, programmeOf } from './programme.ts';

/** The picture changes no nearer to the edge of a piece than this: it changes there. */
const LEAST: Seconds = 0.035;

/**
 * A programme as its picture is seen: a piece ends where another angle is seen, and says which one that is. What is heard is the same.
 * @param angles in order of the clock and disjoint
 */
export function seenBy(programme: Programme, angles: readonly AngleStretch[]): Programme {
  if (angles.length === 0) return programme;
  return programmeOf(programme.pieces.flatMap((piece) => parted(piece, angles)));
}

function parted(piece: Piece, angles: readonly AngleStretch[]): Piece[] {
  const first = firstAfter(angles.length, (k) => (angles[k] as Range).end, piece.start);
  const parts: Piece[] = [];
  let at = piece.start;
  const add = (end: Seconds, angle?: string) => {
    // What is too short to be seen goes with what comes after it, or before it at the end.
    if (end - at < LEAST && end < piece.end) return;
    const last = parts.at(-1);
    const isEnd = end - at < LEAST && last;
    if (last && (isEnd || last.angle === angle)) parts[parts.length - 1] = { ...last, end };
    else if (end > at) parts.push({ ...piece, start: at, end, ...(angle !== undefined && { angle }) });
    at = end;
  };
  for (let k = first; k < angles.length; k++) {
    const { start, end, angle } = angles[k] as AngleStretch;
    if (start >= piece.end) break;
    if (start > at) add(start);
    add(Math.min(end, piece.end), angle);
  }
  if (at < piece.end) add(piece.end);
  return parts;
}
