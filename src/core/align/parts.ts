import type { Range, Seconds } from '../time/range.ts';

/** A part is at most so long: short enough to be done again alone. */
const MOST: Seconds = 45;
/** ... and, where there is more, not shorter: starting costs half a second, and a recogniser needs some words to go by. */
const LEAST: Seconds = 12;
/** As much for each at a time is soon done, and is done in one round. */
const ONE_ROUND: Seconds = 18;
/** Those that are heard first are this long, and each round after them twice as long: soon something is heard, and how it goes on. */
const FIRST: Seconds = 3;
/** Silence kept round what is spoken, so that no soft start is lost; of a shorter one each side keeps half. */
const MARGIN: Seconds = 0.25;

/** Parts of speech that no silence parts overlap by so much on either side: beside an edge a recogniser hears worse. */
const OVERLAP: Seconds = 1;

/** How parts are worked on. */
export interface PartChoices {
  /** parts at a time: a short recording gives as many, of about the same length */
  readonly parallel?: number | undefined;
  /** seconds that a part may have */
  readonly longest?: Seconds | undefined;
  /** the moment from which it is heard first; parts are short after it */
  readonly from?: Seconds | undefined;
}

/**
 * Cuts a recording into parts for a recogniser: at silences, which are left out where they are long. Where there is none, parts overlap.
 * @param silences in order and disjoint
 */
export function partsOf(
  duration: Seconds,
  silences: readonly Range[],
  { parallel = 1, longest = MOST, from = 0 }: PartChoices = {},
): Range[] {
  // What overlaps is added to both sides of a part.
  const most = Math.min(MOST, longest) - 2 * Math.max(OVERLAP, MARGIN);
  const spoken: { start: number; end: number }[] = [];
  let at = 0;
  for (const { start, end } of [...silences, { start: duration, end: duration }]) {
    if (start > at) for (const piece of inPieces(at, start, most)) spoken.push(piece);
    at = end;
  }
  const fewest = joined(spoken, () => most, most);
  const total = fewest.reduce((sum, { start, end }) => sum + end - start, 0);
  const enough = Math.max(LEAST, total / (parallel * Math.ceil(fewest.length / parallel)));
  const grows = total > parallel * ONE_ROUND;
  const growing = (count: number) => Math.min(enough, FIRST * 2 ** Math.floor((count - 1) / parallel));
  const isLater = ({ end }: Range) => !grows || end > from;
  const parts = [
    ...joined(
      spoken.filter((piece) => !isLater(piece)),
      () => enough,
      most,
    ),
    ...joined(spoken.filter(isLater), grows ? growing : () => enough, most),
  ];
  return parts.map(({ start, end }, k) => {
    const [before, after] = [parts[k - 1], parts[k + 1]];
    const lead = before ? beside(start - before.end) : MARGIN;
    const rest = after ? beside(after.start - end) : MARGIN;
    return { start: Math.max(0, start - lead), end: Math.min(duration, end + rest) };
  });
}

/** How much more a part has beside a silence: half of it at most, and where there is none, what overlaps. */
const beside = (silence: Seconds): Seconds => (silence > 0 ? Math.min(MARGIN, silence / 2) : OVERLAP);

/** Joins what is spoken until a part is long enough, never to more than the most. */
function joined(spoken: readonly Range[], enough: (count: number) => Seconds, most: Seconds): Range[] {
  const parts: { start: number; end: number }[] = [];
  for (const { start, end } of spoken) {
    const last = parts.at(-1);
    if (last && last.end - last.start < enough(parts.length) && end - last.start <= most) last.end = end;
    else parts.push({ start, end });
  }
  return parts;
}

/** Speech without any silence is cut into equal pieces all the same. */
function inPieces(start: Seconds, end: Seconds, most: Seconds): { start: number; end: number }[] {
  const count = Math.ceil((end - start) / most);
  const each = (end - start) / count;
  return Array.from({ length: count }, (_, k) => ({ start: start + k * each, end: start + (k + 1) * each }));
}
