import type { Range, Seconds } from '../time/range.ts';

/** A part is at most so long: short enough to be done again alone, long enough that starting costs little. */
const MOST: Seconds = 45;
/** Silence kept round what is spoken, so that no soft start is lost. */
const MARGIN: Seconds = 0.25;

/**
 * Cuts a recording into parts for a recogniser: at silences, which are left out where they are long.
 * @param silences in order and disjoint
 */
export function partsOf(duration: Seconds, silences: readonly Range[]): Range[] {
  const spoken: { start: number; end: number }[] = [];
  let at = 0;
  for (const { start, end } of [...silences, { start: duration, end: duration }]) {
    if (start > at) for (const piece of inPieces(at, start)) spoken.push(piece);
    at = end;
  }
  const parts: { start: number; end: number }[] = [];
  for (const { start, end } of spoken) {
    const last = parts.at(-1);
    if (last && end - last.start <= MOST) last.end = end;
    else parts.push({ start, end });
  }
  return parts.map(({ start, end }) => ({ start: Math.max(0, start - MARGIN), end: Math.min(duration, end + MARGIN) }));
}

/** Speech without any silence is cut into equal pieces all the same. */
function inPieces(start: Seconds, end: Seconds): { start: number; end: number }[] {
  const count = Math.ceil((end - start) / MOST);
  const each = (end - start) / count;
  return Array.from({ length: count }, (_, k) => ({ start: start + k * each, end: start + (k + 1) * each }));
}
