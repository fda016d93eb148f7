import type { DecidedProposal } from '../decisions/matching.ts';
import type { HurrySound } from '../detect/settings.ts';
import { firstAfter, type Range, type Seconds, subtract, union } from '../time/range.ts';
import { type Piece, type Programme, programmeOf } from './programme.ts';

/** Shorter scraps between two cuts are heard as a blip and never as a word: they go with the cuts. */
const LEAST_PIECE: Seconds = 0.035;

/**
 * The pieces that are left, in the order of the passages: what goes is taken away, what is hurried or emptied becomes a piece of its
 * own. Where such stretches overlap, going comes before emptying, and emptying before hurrying.
 * @param passages disjoint ranges of the clock
 */
export function assemble(
  passages: readonly Range[],
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
  const all = union(gone);
  const [only] = passages;
  // One passage needs no list of lists: most episodes are one, at each step of a slider.
  if (only && passages.length === 1) return programmeOf(piecesOf(only, all, special, splits));
  return programmeOf(passages.flatMap((passage) => piecesOf(passage, all, special, splits)));
}

function piecesOf(passage: Range, gone: readonly Range[], special: readonly Piece[], splits: readonly Seconds[]): Piece[] {
  const kept = keptBetween(gone, passage);
  const own = special.filter(({ start, end }) => start < passage.end && end > passage.start);
  const pieces = own.length === 0 ? kept : setInto(kept, own);
  return splitAt(
    pieces.filter(({ start, end }) => end - start >= LEAST_PIECE),
    splits,
  );
}

/** @param gone in order, disjoint */
function keptBetween(gone: readonly Range[], passage: Range): Piece[] {
  const kept: Piece[] = [];
  let at = passage.start;
  for (let k = firstAfter(gone.length, (n) => (gone[n] as Range).end, passage.start); k < gone.length; k++) {
    const { start, end } = gone[k] as Range;
    if (start >= passage.end) break;
    if (start > at) kept.push({ start: at, end: start, rate: 1 });
    at = Math.max(at, end);
  }
  if (at < passage.end) kept.push({ start: at, end: passage.end, rate: 1 });
  return kept;
}

function splitAt(pieces: Piece[], splits: readonly Seconds[]): Piece[] {
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
