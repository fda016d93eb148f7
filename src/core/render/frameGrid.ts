import type { PlacedMedia } from '../outputs/plan/media.ts';
import type { Piece, Programme } from '../programme/programme.ts';
import { indexAt } from '../sources/recording.ts';
import type { Seconds } from '../time/range.ts';
import { type FrameRate, type Frames, frames, framesNear } from '../time/rate.ts';

/** A piece of a programme on the frames of a rendered picture. */
export interface FramedPiece {
  readonly index: number;
  readonly piece: Piece;
  /** programme time at which it begins */
  readonly offset: Seconds;
  /** first frame of the picture, and the first after it */
  readonly from: Frames;
  readonly to: Frames;
  /** index of its file */
  readonly source: number;
}

/** The pieces of a programme on a grid of frames that follows its sound: each begins at the frame nearest to it. Those shorter than half a frame are none. */
export function framedPieces(
  files: readonly PlacedMedia[],
  { pieces, offsets, length }: Programme,
  rate: FrameRate,
): FramedPiece[] {
  const places = files.map(({ start }) => ({ start, end: Number.POSITIVE_INFINITY }));
  const framed: FramedPiece[] = [];
  let from = frames(0);
  for (const [index, piece] of pieces.entries()) {
    const to = framesNear(offsets[index + 1] ?? length, rate);
    if (to <= from) continue;
    framed.push({ index, piece, offset: offsets[index] as Seconds, from, to, source: Math.max(0, indexAt(places, piece.start)) });
    from = to;
  }
  return framed;
}
