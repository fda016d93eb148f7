import { type Programme, pieceAt } from '@/core/programme/programme.ts';
import type { Seconds } from '@/core/time/range.ts';

/** A stretch of the recording as it lies in a row, from `x` on, in seconds from the row's left edge. */
export interface RowPart {
  readonly start: Seconds;
  readonly end: Seconds;
  readonly x: Seconds;
  /** the part begins at a seam */
  readonly seam: boolean;
  /** where a piece begins with the part: a moment of the piece before it, or that there is none */
  readonly after?: Seconds | 'nothing';
}

/**
 * What row `row` shows of a programme. Recorded reading and programme reading differ in the programme alone: the
 * whole recording is a programme of one piece.
 */
export function rowParts(programme: Programme, row: number, rowSeconds: Seconds): RowPart[] {
  const from = row * rowSeconds;
  const to = Math.min(from + rowSeconds, programme.length);
  const parts: RowPart[] = [];
  for (let index = pieceAt(programme, from); index >= 0 && index < programme.pieces.length; index++) {
    const piece = programme.pieces[index];
    const offset = programme.offsets[index];
    if (!piece || offset === undefined || offset >= to) break;
    const begin = Math.max(from, offset);
    const end = Math.min(to, offset + (piece.end - piece.start) / piece.rate);
    if (end <= begin) continue;
    parts.push({
      start: piece.start + (begin - offset) * piece.rate,
      end: piece.start + (end - offset) * piece.rate,
      x: begin - from,
      seam: index > 0 && begin === offset,
      ...(begin === offset && { after: programme.pieces[index - 1]?.start ?? 'nothing' }),
    });
  }
  return parts;
}

export const rowCount = (programme: Programme, rowSeconds: Seconds): number =>
  Math.max(1, Math.ceil(programme.length / rowSeconds - 1e-9));

/** A moment of a row as a moment of the recording; the nearest where the row holds less. */
export function timeInRow(parts: readonly RowPart[], x: Seconds): Seconds {
  const part = parts.findLast((candidate) => candidate.x <= x) ?? parts[0];
  return part ? Math.min(part.end, part.start + Math.max(0, x - part.x)) : 0;
}
