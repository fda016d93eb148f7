import type { DecidedProposal } from '../decisions/matching.ts';
import type { HurrySound } from '../detect/settings.ts';
import type { Range, Seconds } from '../time/range.ts';
import { type Piece, type Programme, pieceAt, toProgramme } from './programme.ts';

/** Programme that is played before a join, and behind it. */
export const HEAR_MARGIN: Seconds = 1;

/** The pieces of a programme between two moments of its own time. */
export function piecesBetween(programme: Programme, from: Seconds, to: Seconds): Piece[] {
  const pieces: Piece[] = [];
  for (let k = Math.max(0, pieceAt(programme, from)); k < programme.pieces.length; k++) {
    const at = programme.offsets[k] as number;
    if (at >= to) break;
    const piece = programme.pieces[k] as Piece;
    const start = piece.start + Math.max(0, from - at) * piece.rate;
    const end = Math.min(piece.end, piece.start + (to - at) * piece.rate);
    if (end > start) pieces.push({ ...piece, start, end });
  }
  return pieces;
}

type Crossed = Pick<DecidedProposal, 'start' | 'end' | 'verdict' | 'treatment' | 'amount'>;

/**
 * What is heard across a proposal: so many seconds of programme before it and behind it, other cuts left out, and between them what its
 * treatment leaves, or all of it.
 * @param way `cut` as it is when it goes, whatever is decided; `with` with its material in
 */
export function piecesAcross(
  programme: Programme,
  proposal: Crossed,
  way: 'cut' | 'with',
  margin: Seconds,
  hurrySound: HurrySound = 'mute',
): Piece[] {
  const [from, to] = programmeSpan(programme, proposal);
  const before = piecesBetween(programme, from - margin, from);
  const behind = piecesBetween(programme, to, to + margin);
  return [...before, ...(way === 'with' ? [materialOf(proposal)] : treated(proposal, hurrySound)), ...behind];
}

const materialOf = ({ start, end }: Range): Piece => ({ start, end, rate: 1 });

function treated({ start, end, treatment, amount }: Crossed, sound: HurrySound): Piece[] {
  if (treatment === 'hole') return [{ start, end, rate: 1, hole: true }];
  return treatment === 'hurry' ? [{ start, end, rate: amount ?? 1, sound }] : [];
}

/** Where a proposal begins and ends in programme time: both at its seam where it is out, and what follows there is what is heard next. */
export function programmeSpan(programme: Programme, { start, end }: Range): [Seconds, Seconds] {
  const from = toProgramme(programme, start);
  const to = toProgramme(programme, end);
  return [from, to >= from && to - from <= end - start + 1e-6 ? to : from];
}
