import type { PlacedMedia } from '../outputs/plan/media.ts';
import type { Programme } from '../programme/programme.ts';
import type { View } from '../programme/views.ts';
import { type BesidePlace, ownTime } from '../sources/besideTime.ts';
import type { Seconds } from '../time/range.ts';
import { type FrameRate, framesNear } from '../time/rate.ts';
import { framedPieces } from './frameGrid.ts';

/** Frames of one file that are shown one after another. */
export interface PictureStretch {
  /** index of the recording */
  readonly source: number;
  /** which of its files, by its name as an angle; its own when left out */
  readonly angle?: string;
  /** place of the first frame among those of the file, at the rate of the plan; between two of them where it is hurried */
  readonly first: number;
  /** frames that are shown */
  readonly count: number;
  /** how far the file goes on from one shown frame to the next, in frames */
  readonly rate: number;
  /** nothing is shown: a hole, sound without a picture, or sound that outlasts its picture */
  readonly black?: 'over picture' | 'without picture';
  /** by how much it is shown larger, as a share */
  readonly closer?: number;
  /** frames on either side of its start in which the picture before goes over into it */
  readonly dissolve?: number;
  /** as it is coded in its file */
  readonly copied?: true;
}

/** The picture of a programme, frame by frame. */
export interface PicturePlan {
  readonly rate: FrameRate;
  readonly length: number;
  readonly stretches: readonly PictureStretch[];
}

/** More than float64 loses on an hour's frames, less than anything that could be seen. */
const SLACK = 1e-6;

/**
 * What each frame of a rendered programme shows. Its sound is exact to the sample; the picture follows it on a grid of frames: each of them
 * shows what its file has at the middle of its time. So sound and picture are never more than half a frame apart, however many cuts there
 * are, and no frame shows what was taken out, but for the rest of a frame that a cut goes through.
 * @param files of all recordings in order of the clock
 * @param programme its pieces parted where another angle is seen, see `seenBy`
 * @param rate frames a second of what is rendered
 * @param views of the pieces; as recorded and cut when left out
 */
export function picturePlan(
  files: readonly PlacedMedia[],
  programme: Programme,
  rate: FrameRate,
  views: readonly View[] = [],
): PicturePlan {
  const perSecond = rate.num / rate.den;
  const framed = framedPieces(files, programme, rate);
  const stretches: PictureStretch[] = [];
  for (const { index, piece, offset, from, to, source } of framed) {
    const { start: place, media } = files[source] as PlacedMedia;
    const into: Seconds = ((from + 0.5) / perSecond - offset) * piece.rate;
    const angle = media.together?.beside.find(({ id }) => id === piece.angle);
    const speed = piece.rate * (1 + (angle?.drift ?? 0));
    const exact = ownTime(angle ?? ITSELF, piece.start + into - place) * perSecond;
    const first = speed === 1 ? Math.max(0, Math.floor(exact + SLACK)) : Math.max(0, exact);
    const { closer = 0, dissolve = 0 } = views[index] ?? {};
    const half = Math.round((dissolve / 2) * perSecond);
    const shown = {
      source,
      ...(angle && { angle: angle.id }),
      first,
      count: to - from,
      rate: speed,
      ...(closer > 0 && { closer }),
      ...(half > 0 && { dissolve: half }),
    };
    if (!media.hasVideo) stretches.push({ ...shown, black: 'without picture' });
    else if (piece.hole) stretches.push({ ...shown, black: 'over picture' });
    else {
      const { pictureEnd, duration } = angle?.media ?? media;
      stretches.push(...endedWithPicture(shown, framesNear(pictureEnd ?? duration, rate)));
    }
  }
  return { rate, length: framed.at(-1)?.to ?? 0, stretches };
}

/** The recording's own picture begins where it does. */
const ITSELF: BesidePlace = { place: 0, drift: 0 };

/** A stretch whose sound outlasts its picture goes on in black. */
function endedWithPicture(stretch: PictureStretch, end: number): PictureStretch[] {
  const { first, count, rate } = stretch;
  const seen = Math.max(0, Math.min(count, Math.ceil((end - first) / rate)));
  // A frame or two of sound that the container rounded up go with the last frame of the picture.
  if (seen >= count - 2 && seen > 0) return [stretch];
  const black: PictureStretch = { ...rest(stretch, seen), black: 'without picture' };
  return seen === 0 ? [black] : [{ ...stretch, count: seen }, black];
}

/** A stretch without its first frames: nothing goes over into what is left. */
export function rest({ dissolve: _, ...stretch }: PictureStretch, without: number): PictureStretch {
  const { first, count, rate } = stretch;
  return { ...stretch, first: first + without * rate, count: count - without };
}

/** What one process renders: it goes through one file, forwards, or through two at once where the picture of one goes over into that of the other. */
export interface PictureSegment {
  /** frame of the programme with which it begins */
  readonly start: number;
  readonly count: number;
  /** one at least, all of one file; black ones without a picture stand alone, and so does what is copied */
  readonly stretches: readonly PictureStretch[];
  /** what its only stretch goes over into, from its first frame to its last */
  readonly into?: PictureStretch;
}

/** Bounds of a segment: what is worked out again at most after a kill, how long its filter grows, and when looking for a place is quicker than decoding. */
const MOST = { seconds: 40, stretches: 60, skipped: 8 } as const;

/** The last frame of its file that a stretch shows. */
const lastOf = ({ first, count, rate }: PictureStretch): number => Math.floor(first + (count - 1) * rate + SLACK);

/** Parts a picture into segments that can be rendered one by one, in parallel, or again. */
export function segmentsOf({ rate, stretches }: PicturePlan): PictureSegment[] {
  const perSecond = rate.num / rate.den;
  const longest = Math.round(MOST.seconds * perSecond);
  const segments: PictureSegment[] = [];
  let start = 0;
  let open: PictureStretch[] = [];
  let count = 0;
  const close = () => {
    if (count > 0) segments.push({ start, count, stretches: open });
    start += count;
    open = [];
    count = 0;
  };
  const isFull = () => open.length >= MOST.stretches || count >= longest;
  const follows = (last: PictureStretch | undefined, stretch: PictureStretch): boolean => {
    if (!last) return true;
    if (last.source !== stretch.source || last.angle !== stretch.angle || last.copied || stretch.copied) return false;
    if (last.black === 'without picture' || stretch.black === 'without picture') return false;
    // Both sides of a cut shorter than a frame may show the same one, which a process that goes forwards shows once.
    const skipped = Math.floor(stretch.first + SLACK) - lastOf(last) - 1;
    // Pictures that go over into each other are decoded by one process, however much lies between them.
    return skipped >= 0 && (stretch.dissolve !== undefined || skipped <= MOST.skipped * perSecond);
  };
  /** Closes in the middle of the last stretch: it goes over into the next, and that is done by one process. */
  const closeInside = (last: PictureStretch) => {
    const kept = last.count >> 1;
    open[open.length - 1] = { ...last, count: kept };
    count -= last.count - kept;
    close();
    open = [rest(last, kept)];
    count = last.count - kept;
  };
  /** A segment of its own for what goes over into another file, or back in the same one. @returns what is left of that */
  const goOver = (last: PictureStretch, next: PictureStretch): PictureStretch => {
    const half = Math.min(next.dissolve ?? 0, last.count >> 1, next.count >> 1, Math.floor(next.first / next.rate));
    if (half < 1 || [last, next].some(({ black, copied }) => black !== undefined || copied)) {
      close();
      return next;
    }
    const kept = last.count - half;
    open[open.length - 1] = { ...last, count: kept };
    count -= half;
    close();
    const { dissolve: _, ...into } = { ...next, first: next.first - half * next.rate, count: 2 * half };
    segments.push({ start, count: 2 * half, stretches: [{ ...rest(last, kept), count: 2 * half }], into });
    start += 2 * half;
    return rest(next, half);
  };
  for (let whole of stretches) {
    const last = open.at(-1);
    if (last && !follows(last, whole)) whole = goOver(last, whole);
    else if (isFull()) {
      if (last && last.count > 1 && whole.dissolve !== undefined) closeInside(last);
      else close();
    }
    for (let left = whole; left.count > 0; ) {
      // A copy is quick, and ends where it must.
      const taken = left.copied ? left.count : Math.min(left.count, longest - count);
      if (taken > 0) open.push({ ...left, count: taken });
      count += taken;
      left = rest(left, taken);
      if (left.count > 0) close();
    }
  }
  close();
  return segments;
}

/** A moment at which one picture goes over into another, by frames of a segment: so many on either side. */
export interface Dissolve {
  readonly at: number;
  readonly half: number;
}

/** Where pictures go over into each other in a segment: nowhere does one begin before another has ended. */
export function dissolvesIn(stretches: readonly PictureStretch[]): Dissolve[] {
  let at = 0;
  return stretches.flatMap(({ count, dissolve = 0 }, k) => {
    const start = at;
    at += count;
    const half = Math.min(dissolve, (stretches[k - 1]?.count ?? 0) >> 1, count >> 1);
    return half > 0 ? [{ at: start, half }] : [];
  });
}

/** The stretches of a segment where each picture that goes over into another stays until it is gone, or where the other is there at once. */
export function shiftedBy(stretches: readonly PictureStretch[], side: 'stays' | 'comes'): PictureStretch[] {
  const halves = new Map(dissolvesIn(stretches).map(({ at, half }) => [at, half]));
  const sign = side === 'stays' ? 1 : -1;
  let at = 0;
  return stretches.map((stretch) => {
    const start = sign * (halves.get(at) ?? 0);
    at += stretch.count;
    const end = sign * (halves.get(at) ?? 0);
    return { ...stretch, first: stretch.first + start, count: stretch.count - start + end };
  });
}
