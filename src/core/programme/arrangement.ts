import type { Layout, Move } from '../decisions/layout.ts';
import { presentOf, type Recording } from '../sources/recording.ts';
import { type Range, union } from '../time/range.ts';

/** Nothing shorter is cut off at the place that a passage is moved to. */
const SAME = 1e-6;

/** What is needed to say in which order the recordings are heard. */
export type Order = Pick<Layout, 'removed' | 'moves' | 'collected' | 'collecting'>;

/**
 * The passages of all recordings that are present, in their order: disjoint ranges of the episode clock, none across the end of a
 * recording.
 */
export function arrangeAll(recordings: readonly Recording[], { removed, moves }: Pick<Layout, 'removed' | 'moves'>): Range[] {
  const all = joined(moves.reduce(moved, recordings.map(asRange)));
  const present = presentOf(recordings, removed);
  if (present.length === recordings.length) return all;
  return joined(all.filter((passage) => present.some((one) => holds(one, passage))));
}

/** The passages that may be heard: all of them, or only what is wanted. */
export function arrange(recordings: readonly Recording[], order: Order): Range[] {
  const { collected, collecting } = order;
  const passages = arrangeAll(recordings, order);
  if (collecting === undefined) return passages;
  if (collecting === 'marking') return collected.flatMap((wanted) => passages.flatMap((passage) => shared(passage, wanted)));
  const wanted = union(collected);
  return joined(passages.flatMap((passage) => wanted.flatMap((range) => shared(passage, range))));
}

const asRange = ({ start, end }: Range): Range => ({ start, end });
const holds = (outer: Range, inner: Range): boolean => inner.start >= outer.start && inner.end <= outer.end;

function shared(a: Range, b: Range): Range[] {
  const both = { start: Math.max(a.start, b.start), end: Math.min(a.end, b.end) };
  return both.end - both.start > SAME ? [both] : [];
}

/** Passages with one move made. One that would set a passage into itself, or nowhere, changes nothing. */
function moved(passages: readonly Range[], { about, to, side }: Pick<Move, 'about' | 'to' | 'side'>): readonly Range[] {
  const holdsPlace = ({ start, end }: Range) => (side === 'before' ? start <= to && to < end : start < to && to <= end);
  if (holdsPlace(about)) return passages;
  const taken = passages.flatMap((passage) => shared(passage, about));
  const rest = passages.flatMap(({ start, end }) => [
    ...shared({ start, end }, { start, end: about.start }),
    ...shared({ start, end }, { start: about.end, end }),
  ]);
  const at = rest.findIndex(holdsPlace);
  const place = rest[at];
  if (!place || taken.length === 0) return passages;
  const before = shared(place, { start: place.start, end: to });
  const after = shared(place, { start: to, end: place.end });
  return [...rest.slice(0, at), ...before, ...taken, ...after, ...rest.slice(at + 1)];
}

/** Passages that go on where the one before ends are one. */
function joined(passages: readonly Range[]): Range[] {
  const whole: Range[] = [];
  for (const passage of passages) {
    const last = whole.at(-1);
    if (last && Math.abs(last.end - passage.start) <= SAME) whole[whole.length - 1] = { start: last.start, end: passage.end };
    else whole.push(passage);
  }
  return whole;
}
