/** Pictures a second that are compared. */
export const MOTION_RATE = 4;
/** Size to which they are brought first: hands and faces show, grain and compression do not. */
export const MOTION_WIDTH = 64;
export const MOTION_HEIGHT = 36;
/** A grey value, of 255, that has to change for a point to count as moved: fainter is noise of the camera. */
const MOVED = 12;

/**
 * How much of the picture changed, over time: `codes[k] / 1000` is the share of its points that differ between the
 * picture at `k / MOTION_RATE` seconds and the one before it. Over a quarter of the picture is all the same, so that a
 * byte holds it.
 */
export interface MotionCurve {
  readonly codes: Uint8Array;
}

export const codeToShare = (code: number): number => code / 1000;

/** The code of one step between two grey pictures of the same size. */
export function motionCode(before: Uint8Array, after: Uint8Array): number {
  let moved = 0;
  for (let k = 0; k < after.length; k++) if (Math.abs((after[k] as number) - (before[k] as number)) > MOVED) moved++;
  return Math.min(255, Math.round((1000 * moved) / Math.max(1, after.length)));
}
