import * as z from 'zod/mini';
import type { SeamChoice } from '../decisions/replay.ts';
import type { SeamLook, Settings } from '../detect/settings.ts';
import { overlapOf, type Range, type Seconds } from '../time/range.ts';
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

const plain = ({ rate, hole }: Piece): boolean => rate === 1 && !hole;

/**
 * How each piece of a programme is shown, so that a cut of somebody speaking looks like another view. By itself that is done where what is
 * said goes on at its speed on both sides: in turn a little closer and back, or by dissolves. What was chosen for a seam comes first.
 */
export function viewsOf({ pieces, offsets, length }: Programme, settings: SeamSettings, choices: readonly SeamChoice[]): View[] {
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
    const look = chosen ?? (isSeen ? settings.seamLook : 'cut');
    if (look === 'closer' && (chosen || at - since >= LEAST)) {
      isCloser = !isCloser;
      since = at;
    }
    if (look !== 'dissolve') return view();
    const dissolve = Math.min(settings.dissolveFor, lengthAt(k - 1), lengthAt(k));
    return view(dissolve >= LEAST_DISSOLVE ? dissolve : 0);
  });
}

/** The last that was chosen for a seam, if anything was. */
export function chosenFor(taken: Range, choices: readonly SeamChoice[]): SeamLook | undefined {
  const look = choices.findLast(({ about }) => overlapOf(about, taken) > 0)?.look;
  return look === 'as set' ? undefined : look;
}
