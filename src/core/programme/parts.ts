import type { Break } from '../decisions/layout.ts';
import type { Range, Seconds } from '../time/range.ts';
import { type Programme, piecesWithin, programmeOf, toProgramme } from './programme.ts';

/** A part of the programme, from one break to the next, in programme time. */
export interface Part extends Range {
  /** the break that it begins with; undefined for what comes before the first */
  readonly part: string | undefined;
  readonly title: string;
  readonly number: number;
}

/** Seconds: shorter parts are none, two breaks that met at one seam. */
export const LEAST_PART = 0.04;

/**
 * The parts of a programme. A break at a moment that is out comes where that moment vanished. One before everything else titles the
 * first part.
 */
export const partsOf = (programme: Programme, breaks: readonly Break[]): Part[] =>
  partedAt(breaks, { at: (moment) => toProgramme(programme, moment), length: programme.length, least: LEAST_PART });

/**
 * The same in any unit of time.
 * @param at where a moment of the clock lies
 */
export function partedAt(
  breaks: readonly Break[],
  { at, length, least }: { readonly at: (moment: Seconds) => number; readonly length: number; readonly least: number },
): Part[] {
  const edges = breaks
    .map(({ part, at: moment, title }) => ({ part, title, start: at(moment) }))
    .sort((a, b) => a.start - b.start);
  const begins: Pick<Part, 'part' | 'title' | 'start'>[] = [{ part: undefined, title: '', start: 0 }];
  for (const edge of edges) {
    const last = begins.at(-1);
    if (edge.start > length - least && edge.start > least) continue;
    if (last && edge.start - last.start < least) begins[begins.length - 1] = { ...edge, start: last.start };
    else begins.push(edge);
  }
  return begins.map(({ part, title, start }, k) => ({
    part,
    title: title || `Part ${k + 1}`,
    number: k + 1,
    start,
    end: begins[k + 1]?.start ?? length,
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
