import type { Range, Seconds } from '../time/range.ts';

/** A part is at most so long: short enough to be done again alone. */
const MOST: Seconds = 45;
/** ... and, where there is more, not shorter: starting costs half a second, and a recogniser needs some words to go by. */
const LEAST: Seconds = 12;
/** Silence kept round what is spoken, so that no soft start is lost; of a shorter one each side keeps half. */
const MARGIN: Seconds = 0.25;

/**
 * Cuts a recording into parts for a recogniser: at silences, which are left out where they are long.
 * @param silences in order and disjoint
 * @param parallel parts that are worked on at a time: a short recording gives as many, of about the same length
 */
export function partsOf(duration: Seconds, silences: readonly Range[], parallel = 1): Range[] {
  const spoken: { start: number; end: number }[] = [];
  let at = 0;
  for (const { start, end } of [...silences, { start: duration, end: duration }]) {
    if (start > at) for (const piece of inPieces(at, start)) spoken.push(piece);
    at = end;
  }
  const fewest = joined(spoken, MOST);
  const total = fewest.reduce((sum, { start, end }) => sum + end - start, 0);
  const parts = joined(spoken, Math.max(LEAST, total / (parallel * Math.ceil(fewest.length / parallel))));
  return parts.map(({ start, end }, k) => {
    const [before, after] = [parts[k - 1], parts[k + 1]];
    const lead = before ? Math.min(MARGIN, (start - before.end) / 2) : MARGIN;
    const rest = after ? Math.min(MARGIN, (after.start - end) / 2) : MARGIN;
    return { start: Math.max(0, start - lead), end: Math.min(duration, end + rest) };
  });
}

/** Joins what is spoken until a part is long enough, never to more than the most. */
function joined(spoken: readonly Range[], enough: Seconds): Range[] {
  const parts: { start: number; end: number }[] = [];
  for (const { start, end } of spoken) {
    const last = parts.at(-1);
    if (last && last.end - last.start < enough && end - last.start <= MOST) last.end = end;
    else parts.push({ start, end });
  }
  return parts;
}

/** Speech without any silence is cut into equal pieces all the same. */
function inPieces(start: Seconds, end: Seconds): { start: number; end: number }[] {
  const count = Math.ceil((end - start) / MOST);
  const each = (end - start) / count;
  return Array.from({ length: count }, (_, k) => ({ start: start + k * each, end: start + (k + 1) * each }));
}
