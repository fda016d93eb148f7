import type { Break } from '../decisions/layout.ts';
import type { Range } from '../time/range.ts';
import { type Programme, piecesWithin, programmeOf, toProgramme } from './programme.ts';

/** A part of the programme, from one break to the next, in programme time. */
export interface Part extends Range {
  /** the break that it begins with; undefined for what comes before the first */
  readonly part: string | undefined;
  readonly title: string;
  readonly number: number;
}

/** Shorter parts are none: two breaks that met at one seam. */
const LEAST_PART = 0.04;

/**
 * The parts of a programme. A break at a moment that is out comes where that moment vanished. One before everything else titles the
 * first part.
 */
export function partsOf(programme: Programme, breaks: readonly Break[]): Part[] {
  const edges = breaks
    .map(({ part, at, title }) => ({ part, title, at: toProgramme(programme, at) }))
    .sort((a, b) => a.at - b.at);
  const begins: { part: string | undefined; title: string; at: number }[] = [{ part: undefined, title: '', at: 0 }];
  for (const edge of edges) {
    const last = begins.at(-1);
    if (edge.at > programme.length - LEAST_PART && edge.at > LEAST_PART) continue;
    if (last && edge.at - last.at < LEAST_PART) begins[begins.length - 1] = { ...edge, at: last.at };
    else begins.push(edge);
  }
  return begins.map(({ part, title, at }, k) => ({
    part,
    title: title || `Part ${k + 1}`,
    number: k + 1,
    start: at,
    end: begins[k + 1]?.at ?? programme.length,
  }));
}

/** The programme of what lies in a stretch of the clock. */
export function withinClock(programme: Programme, { start, end }: Range): Programme {
  return programmeOf(piecesWithin(programme, { start, end }));
}

/** The programme from one moment of it to another. */
export function within({ pieces, offsets, length }: Programme, { start, end }: Range): Programme {
  return programmeOf(
    pieces.flatMap((piece, k) => {
      const offset = offsets[k] as number;
      const until = offsets[k + 1] ?? length;
      const [from, to] = [Math.max(start, offset), Math.min(end, until)];
      if (to - from <= 0) return [];
      if (from === offset && to === until) return [piece];
      return [{ ...piece, start: piece.start + (from - offset) * piece.rate, end: piece.start + (to - offset) * piece.rate }];
    }),
  );
}
