import type { Seconds } from '../time/range.ts';
import type { FrameRate } from '../time/rate.ts';
import { type PictureStretch, rest } from './picturePlan.ts';

/** Frames of a file at which a decoder can begin and needs nothing from before: in order, the first frame behind the last among them. */
export type EntryFrames = readonly number[];

/** A shorter copy costs more than it saves. */
const LEAST: Seconds = 1.5;

/**
 * Parts the stretches of a picture into what can be copied as it is coded in its file, from one frame at which a decoder can begin to
 * another, and the rest beside their cuts, which is encoded anew. Nothing is copied that is hurried, larger, empty, or goes over into
 * something else.
 * @param entries of each file; undefined for one that is not copied
 */
export function withCopies(
  stretches: readonly PictureStretch[],
  entries: readonly (EntryFrames | undefined)[],
  rate: FrameRate,
): PictureStretch[] {
  const least = Math.ceil((LEAST * rate.num) / rate.den);
  return stretches.flatMap((stretch, k) => {
    const own = stretch.angle === undefined ? entries[stretch.source] : undefined;
    if (!own || stretch.rate !== 1 || stretch.black || stretch.closer) return [stretch];
    const end = stretch.first + stretch.count;
    // A dissolve takes as much of its pieces as there is on either side of it.
    const [low, high] = [stretch.first + 2 * (stretch.dissolve ?? 0), end - 2 * (stretches[k + 1]?.dissolve ?? 0)];
    const within = own.filter((frame) => frame >= low && frame <= high);
    const [from, to] = [within[0], within.at(-1)];
    if (from === undefined || to === undefined || to - from < least) return [stretch];
    const copied: PictureStretch = { ...rest(stretch, from - stretch.first), count: to - from, copied: true };
    return [
      ...(from > stretch.first ? [{ ...stretch, count: from - stretch.first }] : []),
      copied,
      ...(end > to ? [rest(stretch, to - stretch.first)] : []),
    ];
  });
}
