import type { DecidedProposal } from '../decisions/matching.ts';
import type { HurrySound } from '../detect/settings.ts';
import { firstAfter, type Range, type Seconds, subtract, union } from '../time/range.ts';

/** A stretch of the recording that the programme keeps, played at `rate` times its speed. */
export interface Piece extends Range {
  readonly rate: number;
  /** nothing is shown or heard, but the time is kept */
  readonly hole?: true;
  /** sound of a hurried piece */
  readonly sound?: HurrySound;
}

/** What remains, in order, with the map between the recording's time and the programme's. */
export interface Programme {
  readonly pieces: readonly Piece[];
  /** programme time at which each piece starts */
  readonly offsets: readonly Seconds[];
  readonly length: Seconds;
}

/** Shorter scraps between two cuts are heard as a blip and never as a word: they go with the cuts. */
const LEAST_PIECE: Seconds = 0.035;

/**
 * The pieces that are left: what goes is taken away, what is hurried or emptied becomes a piece of its own. Where such
 * stretches overlap, going comes before emptying, and emptying before hurrying.
 */
export function assemble(
  duration: Seconds,
  proposals: readonly Pick<DecidedProposal, 'verdict' | 'treatment' | 'start' | 'end' | 'amount'>[],
  hurrySound: HurrySound = 'mute',
  splits: readonly Seconds[] = [],
): Programme {
  const gone: Range[] = [];
  const special: Piece[] = [];
  for (const { verdict, treatment, start, end, amount } of proposals) {
    if (verdict !== 'out') continue;
    if (treatment === 'hole') special.push({ start, end, rate: 1, hole: true });
    else if (treatment === 'hurry') special.push({ start, end, rate: amount ?? 1, sound: hurrySound });
    else gone.push({ start, end });
  }
  const kept = keptBetween(gone, duration);
  const pieces = special.length === 0 ? kept : setInto(kept, special);
  return programmeOf(
    splitAt(
      pieces.filter(({ start, end }) => end - start >= LEAST_PIECE),
      splits,
    ),
  );
}

function keptBetween(gone: readonly Range[], duration: Seconds): Piece[] {
  const kept: Piece[] = [];
  let at = 0;
  for (const { start, end } of union(gone)) {
    if (start >= duration) break;
    if (start > at) kept.push({ start: at, end: start, rate: 1 });
    at = Math.max(at, end);
  }
  if (at < duration) kept.push({ start: at, end: duration, rate: 1 });
  return kept;
}

function splitAt(pieces: readonly Piece[], splits: readonly Seconds[]): readonly Piece[] {
  if (splits.length === 0) return pieces;
  return pieces.flatMap((piece) => {
    const edges = [piece.start];
    for (const at of splits) if (at >= (edges.at(-1) as Seconds) + LEAST_PIECE && at <= piece.end - LEAST_PIECE) edges.push(at);
    edges.push(piece.end);
    return edges.slice(1).map((end, k) => ({ ...piece, start: edges[k] as Seconds, end }));
  });
}

/** Sets holes and hurried stretches into what is kept. */
function setInto(kept: readonly Range[], special: readonly Piece[]): Piece[] {
  const holes = special.filter((piece) => piece.hole);
  const hurried = special.filter((piece) => !piece.hole);
  const free = subtract(kept, holes);
  const plain = subtract(free, hurried).map(({ start, end }) => ({ start, end, rate: 1 }));
  const within = (pieces: readonly Piece[], room: readonly Range[]): Piece[] => {
    const set: Piece[] = [];
    let before = 0;
    for (const piece of pieces) {
      for (const { start, end } of subtract([{ start: Math.max(before, piece.start), end: piece.end }], subtract([piece], room)))
        set.push({ ...piece, start, end });
      before = Math.max(before, piece.end);
    }
    return set;
  };
  return [...plain, ...within(holes, kept), ...within(hurried, free)].sort((a, b) => a.start - b.start);
}

/** The recording from end to end as a programme, for playing and drawing it as recorded. */
export const wholeRecording = (duration: Seconds): Programme => programmeOf([{ start: 0, end: duration, rate: 1 }]);

export function programmeOf(pieces: readonly Piece[]): Programme {
  const offsets: number[] = [];
  let length = 0;
  for (const piece of pieces) {
    offsets.push(length);
    length += (piece.end - piece.start) / piece.rate;
  }
  return { pieces, offsets, length };
}

/** Index of the piece that sounds at a moment of programme time; the last piece for the very end; -1 when empty. */
export function pieceAt({ pieces, offsets }: Programme, at: Seconds): number {
  return Math.min(pieces.length - 1, Math.max(0, firstAfter(offsets.length, (k) => offsets[k] as number, at) - 1));
}

/** Programme time to the recording's time. */
export function toSource(programme: Programme, at: Seconds): Seconds {
  const index = pieceAt(programme, at);
  const piece = programme.pieces[index];
  if (!piece) return 0;
  return Math.min(piece.end, piece.start + Math.max(0, at - (programme.offsets[index] as number)) * piece.rate);
}

/** The recording's time to programme time; a moment that is out maps to the seam it vanished in. */
export function toProgramme(programme: Programme, at: Seconds): Seconds {
  const { pieces, offsets, length } = programme;
  const index = firstAfter(pieces.length, (k) => (pieces[k] as Piece).start, at) - 1;
  const piece = pieces[index];
  if (!piece) return 0;
  const within = (Math.min(at, piece.end) - piece.start) / piece.rate;
  return Math.min(length, (offsets[index] as number) + within);
}

/** The pieces of a programme that lie inside a stretch of the recording. */
export const piecesWithin = ({ pieces }: Programme, { start, end }: Range): Piece[] =>
  pieces
    .filter((piece) => piece.end > start && piece.start < end)
    .map((piece) => ({ ...piece, start: Math.max(start, piece.start), end: Math.min(end, piece.end) }));

/** Joins between pieces. */
export const seamCount = (programme: Programme): number => Math.max(0, programme.pieces.length - 1);
