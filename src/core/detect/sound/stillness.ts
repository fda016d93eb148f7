import { codeToShare, MOTION_RATE, type MotionCurve } from '../../curves/motion.ts';
import type { Range, Seconds } from '../../time/range.ts';

/** Movement that stops for less than this goes on; movement shorter than the other is a twitch. */
const LEAST_STILL: Seconds = 0.75;
const LEAST_MOVING: Seconds = 0.6;

export interface MovingPart extends Range {
  readonly moving: boolean;
}

/** A range in parts in which the picture is still or moves, in order and without gaps. */
export function stillAndMoving({ codes }: MotionCurve, range: Range, overShare: number): MovingPart[] {
  const first = Math.floor(range.start * MOTION_RATE);
  const last = Math.min(codes.length, Math.ceil(range.end * MOTION_RATE));
  const moving: { start: number; end: number }[] = [];
  for (let k = first; k < last; k++) {
    if (codeToShare(codes[k] ?? 0) <= overShare) continue;
    // The change at k happened since the picture before it.
    const [start, end] = [Math.max(range.start, (k - 1) / MOTION_RATE), Math.min(range.end, (k + 1) / MOTION_RATE)];
    const before = moving.at(-1);
    if (before && start - before.end < LEAST_STILL) before.end = end;
    else if (end > start) moving.push({ start, end });
  }
  const parts: MovingPart[] = [];
  let at = range.start;
  for (const { start, end } of moving) {
    if (end - start < LEAST_MOVING) continue;
    if (start - at >= LEAST_STILL) parts.push({ start: at, end: start, moving: false });
    const from = start - at >= LEAST_STILL ? start : at;
    parts.push({ start: from, end: range.end - end < LEAST_STILL ? range.end : end, moving: true });
    at = range.end - end < LEAST_STILL ? range.end : end;
  }
  if (at < range.end) parts.push({ start: at, end: range.end, moving: false });
  return parts;
}
