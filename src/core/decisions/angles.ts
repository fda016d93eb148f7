import { type Range, subtract } from '../time/range.ts';

/** A stretch of the clock in which another picture of its recording is seen than the recording's own. */
export interface AngleStretch extends Range {
  /** the file that has the picture, by the medium that it was kept as */
  readonly angle: string;
}

/**
 * Stretches with another one laid over them.
 * @param angle empty for the recording's own picture
 * @returns in order of the clock and disjoint; neighbours with one picture are one
 */
export function withAngle(stretches: readonly AngleStretch[], { start, end }: Range, angle: string): AngleStretch[] {
  const others = stretches.flatMap((one) => subtract([one], [{ start, end }]).map((left) => ({ ...left, angle: one.angle })));
  const all = angle === '' ? others : [...others, { start, end, angle }];
  const joined: AngleStretch[] = [];
  for (const one of all.sort((a, b) => a.start - b.start)) {
    const last = joined.at(-1);
    if (last && last.angle === one.angle && last.end >= one.start) joined[joined.length - 1] = { ...last, end: one.end };
    else joined.push(one);
  }
  return joined;
}
