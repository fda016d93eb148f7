import type { Piece, Programme } from '../programme/programme.ts';
import type { Seconds } from '../time/range.ts';

/** The picture never comes closer, or goes back, sooner than this after it last did. */
const LEAST: Seconds = 1;
/** A cut that takes out less than this is hardly seen. */
const LEAST_CUT: Seconds = 0.08;

const plain = ({ rate, hole }: Piece): boolean => rate === 1 && !hole;

/**
 * Which pieces of a programme are shown a little closer, so that a cut looks like another view: in turn from seam to seam, where what is
 * said goes on at its speed on both sides.
 */
export function closerPieces({ pieces, offsets }: Programme): boolean[] {
  let isCloser = false;
  let since = Number.NEGATIVE_INFINITY;
  return pieces.map((piece, k) => {
    const before = pieces[k - 1];
    const at = offsets[k] as Seconds;
    if (!before || !plain(before) || !plain(piece) || at - since < LEAST) return isCloser;
    if (Math.abs(piece.start - before.end) < LEAST_CUT) return isCloser;
    isCloser = !isCloser;
    since = at;
    return isCloser;
  });
}
