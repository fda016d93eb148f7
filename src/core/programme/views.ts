import * as z from 'zod/mini';
import type { SeamChoice } from '../decisions/replay.ts';
import type { ProposalKind } from '../detect/kinds.ts';
import type { SeamLook, Settings } from '../detect/settings.ts';
import { firstAfter, overlapOf, type Range, type Seconds } from '../time/range.ts';
import type { Piece, Programme } from './programme.ts';

/** How the picture of a piece is shown. */
export interface View {
  /** by how much it is larger than it was recorded, as a share */
  readonly closer: number;
  /** over how long the picture of the piece before goes over into it, half on either side of the seam; nought for a cut */
  readonly dissolve: Seconds;
}

const share = z.number().check(z.minimum(0), z.maximum(1));

/** What stays where it is in a picture that is cut to a shape, or comes closer: shares of its width and height. */
export const centrePoint = z._default(z.object({ x: share, y: share }), { x: 0.5, y: 0.5 });
export type CentrePoint = z.infer<typeof centrePoint>;

/** What of the settings decides how seams look. */
export type SeamSettings = Pick<Settings, 'seamLook' | 'closerBy' | 'dissolveFor'>;

/** The picture never comes closer, or goes back, by itself sooner than this after it last did. */
const LEAST: Seconds = 1;
/** A cut that takes out less than this is hardly seen. */
const LEAST_CUT: Seconds = 0.08;
/** A shorter dissolve is seen as a flicker. */
const LEAST_DISSOLVE: Seconds = 0.08;

/** Where nobody speaks for longer than this before or behind a seam, something else is shown, and the cut is not hidden by itself. */
const MOST_SILENCE: Seconds = 1;

/** Silences that were found in a recording, whatever becomes of them. */
export const silencesAmong = (proposals: readonly { readonly kind: ProposalKind; readonly found: Range }[]): Range[] =>
  proposals.filter(({ kind }) => kind === 'pause').map(({ found }) => found);

const plain = ({ rate, hole }: Piece): boolean => rate === 1 && !hole;

/**
 * How each piece of a programme is shown, so that a cut of somebody speaking looks like another view. By itself that is done where somebody
 * speaks on both sides, at their speed: in turn a little closer and back, or by dissolves. What was chosen for a seam comes first.
 * @param silences in order of the clock
 */
export function viewsOf(
  { pieces, offsets, length }: Programme,
  settings: SeamSettings,
  choices: readonly SeamChoice[],
  silences: readonly Range[] = [],
): View[] {
  const amount = settings.closerBy / 100;
  let isCloser = false;
  let since = Number.NEGATIVE_INFINITY;
  const lengthAt = (k: number) => (offsets[k + 1] ?? length) - (offsets[k] as Seconds);
  return pieces.map((piece, k) => {
    const before = pieces[k - 1];
    const view = (dissolve: Seconds = 0): View => ({ closer: isCloser ? amount : 0, dissolve });
    if (!before || !plain(before) || !plain(piece)) return view();
    const at = offsets[k] as Seconds;
    const chosen = chosenFor({ start: before.end, end: piece.start }, choices);
    const isSeen = Math.abs(piece.start - before.end) >= LEAST_CUT;
    const isHidden =
      settings.seamLook !== 'cut' && isSeen && !isSilent(before, 'end', silences) && !isSilent(piece, 'start', silences);
    const look = chosen ?? (isHidden ? settings.seamLook : 'cut');
    if (look === 'closer' && (chosen || at - since >= LEAST)) {
      isCloser = !isCloser;
      since = at;
    }
    if (look !== 'dissolve') return view();
    const dissolve = Math.min(settings.dissolveFor, lengthAt(k - 1), lengthAt(k));
    return view(dissolve >= LEAST_DISSOLVE ? dissolve : 0);
  });
}

/** Whether nobody speaks for long at one edge of a piece. */
function isSilent(piece: Piece, edge: 'start' | 'end', silences: readonly Range[]): boolean {
  const at = piece[edge];
  const first = Math.max(0, firstAfter(silences.length, (k) => (silences[k] as Range).start, at) - 1);
  const beside = edge === 'end' ? { start: at - MOST_SILENCE, end: at } : { start: at, end: at + MOST_SILENCE };
  const fills = (range: Range) => overlapOf(beside, range) >= MOST_SILENCE - SLACK;
  return fills(piece) && silences.slice(first, first + 2).some(fills);
}

/** Times of the interface are rounded to ticks. */
const SLACK: Seconds = 0.001;

/** The last that was chosen for a seam, if anything was. */
export function chosenFor(taken: Range, choices: readonly SeamChoice[]): SeamLook | undefined {
  const look = choices.findLast(({ about }) => overlapOf(about, taken) > 0)?.look;
  return look === 'as set' ? undefined : look;
}
