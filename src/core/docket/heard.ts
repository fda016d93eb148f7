import { piecesBetween, programmeSpan } from '../programme/across.ts';
import type { Programme } from '../programme/programme.ts';
import { overlapWith, type Range, type Seconds } from '../time/range.ts';

/** A seam was heard when this much on both sides of it was, nearly all of it. */
const BESIDE: Seconds = 0.25;
const NEARLY_ALL = 0.85;

/**
 * Whether a proposal was listened to as the programme has it now: both sides of its seam where it is out, and all of it where it is in.
 * @param heard in order, disjoint
 */
export function wasHeard(programme: Programme, heard: readonly Range[], proposal: Range): boolean {
  if (heard.length === 0) return false;
  const [from, to] = programmeSpan(programme, proposal);
  return [piecesBetween(programme, from - BESIDE, (from + to) / 2), piecesBetween(programme, (from + to) / 2, to + BESIDE)].every(
    (side) => {
      const length = side.reduce((sum, { start, end }) => sum + end - start, 0);
      return side.reduce((sum, piece) => sum + overlapWith(heard, piece), 0) >= NEARLY_ALL * length;
    },
  );
}
