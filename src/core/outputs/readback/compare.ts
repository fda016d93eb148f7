import type { DecidedProposal } from '../../decisions/matching.ts';
import { firstAfter, overlapOf, type Range, type Seconds, subtract, totalLength, union } from '../../time/range.ts';
import { picturesOf } from '../plan/carriers.ts';
import { type FramePlan, isSeenIn, sourceOf, speedOf } from '../plan/framePlan.ts';
import type { Change, Comparison } from './change.ts';
import { clockRange, type EditedTimeline, playedOf, type SeenPicture } from './edited.ts';
import { movedPassages } from './moved.ts';
import { stepsOf } from './steps.ts';

/** A change at the edge of a seam that is longer than this took words out and not air. */
const TRIM: Seconds = 0.5;

/**
 * Compares a timeline that an editor saved with the plan that was handed over: for each stretch that had gone, what of it is back and on
 * which side; what else went; what stands in another place.
 */
export function compare(plan: FramePlan, edited: EditedTimeline, proposals: readonly DecidedProposal[]): Comparison {
  const frame = edited.rate.den / edited.rate.num;
  const tolerance = Math.max(frame, plan.rate.den / plan.rate.num) * 0.51;
  const kept = playedOf(plan);
  const played = playedOf(edited);
  const gaps = gapsOf(plan, kept);
  const lost = subtract(kept, played).filter(({ start, end }) => end - start > tolerance);
  const isTrim = (one: Range) =>
    one.end - one.start <= TRIM &&
    !around(kept, one, tolerance).some(({ start, end }) => one.start <= start + tolerance && one.end >= end - tolerance);
  const inFrames = (seconds: Seconds) => Math.round(seconds / frame);
  const changes: Omit<Change, 'steps'>[] = [];
  const trimmed = new Set<Range>();
  for (const gap of gaps) {
    const back = partsWithin(played, gap).filter(({ start, end }) => end - start > tolerance);
    const share = back.reduce((sum, { start, end }) => sum + end - start, 0);
    if (share >= gap.end - gap.start - tolerance) {
      changes.push({ kind: 'undone', about: gap, after: 0, before: 0, frames: inFrames(share) });
      continue;
    }
    const cutInto = around(lost, gap, tolerance).filter(
      (one) => isTrim(one) && (near(one.end, gap.start, tolerance) || near(one.start, gap.end, tolerance)),
    );
    for (const one of cutInto) trimmed.add(one);
    const lengthAt = (ranges: readonly Range[], edge: 'start' | 'end', at: Seconds) =>
      ranges.filter((one) => near(one[edge], at, tolerance)).reduce((sum, { start, end }) => sum + inFrames(end - start), 0);
    const after = lengthAt(back, 'start', gap.start) - lengthAt(cutInto, 'end', gap.start);
    const before = lengthAt(back, 'end', gap.end) - lengthAt(cutInto, 'start', gap.end);
    if (after !== 0 || before !== 0)
      changes.push({
        kind: after + before > 0 || (after > 0 && before > 0) ? 'opened' : 'closed',
        about: gap,
        after,
        before,
        frames: after + before,
      });
    for (const one of back)
      if (!near(one.start, gap.start, tolerance) && !near(one.end, gap.end, tolerance))
        changes.push({ kind: 'restored', about: one, after: 0, before: 0, frames: inFrames(one.end - one.start) });
  }
  for (const one of lost)
    if (!trimmed.has(one))
      changes.push({ kind: 'taken out', about: one, after: 0, before: 0, frames: -inFrames(one.end - one.start) });
  changes.push(
    ...movedPassages(plan, edited),
    ...speedsOf(plan, edited),
    ...repeatedIn(edited, tolerance),
    ...picturesIn(plan, edited, tolerance),
  );
  for (const { name, recordIn, recordOut } of edited.foreign)
    changes.push({
      kind: 'added',
      about: { start: recordIn * frame, end: recordOut * frame },
      after: 0,
      before: 0,
      frames: recordOut - recordIn,
      name,
    });
  const all = changes
    .sort((a, b) => a.about.start - b.about.start)
    .map((change): Change => ({ ...change, steps: stepsOf(change, proposals, { frame, tolerance: tolerance * 2.2 }) }));
  return {
    format: edited.format,
    seams: seamsIn(plan, gaps),
    changes: all,
    lengthBefore: (plan.length * plan.rate.den) / plan.rate.num,
    lengthAfter: edited.length * frame,
    frameSeconds: frame,
    air: airOf(all, plan, frame),
  };
}

/** Seconds that one timeline plays and the other does not. */
const differenceOf = (plan: FramePlan, edited: EditedTimeline): Seconds => {
  const [kept, played] = [playedOf(plan), playedOf(edited)];
  return totalLength(subtract(kept, played)) + totalLength(subtract(played, kept));
};

/** Of several plans the one that was most likely handed over: a part, a marked range, or the whole. */
export function nearestPlan(plans: readonly FramePlan[], edited: EditedTimeline): FramePlan {
  return plans
    .map((plan) => ({ plan, difference: differenceOf(plan, edited) }))
    .reduce((best, one) => (one.difference < best.difference ? one : best)).plan;
}

const near = (a: Seconds, b: Seconds, tolerance: Seconds): boolean => Math.abs(a - b) <= tolerance;

/** What of the recordings is not played, each stretch within one recording. */
function gapsOf({ sources }: FramePlan, kept: readonly Range[]): Range[] {
  return sources.flatMap(({ place, media }) => subtract([{ start: place, end: place + media.duration }], kept));
}

/** What of ranges, which are in order and disjoint, lies within another. */
function partsWithin(ordered: readonly Range[], { start, end }: Range): Range[] {
  const within: Range[] = [];
  for (let k = firstAfter(ordered.length, (n) => (ordered[n] as Range).end, start); k < ordered.length; k++) {
    const one = ordered[k] as Range;
    if (one.start >= end) break;
    within.push({ start: Math.max(start, one.start), end: Math.min(end, one.end) });
  }
  return within;
}

/** Ranges, in order and disjoint, that touch another one or come as near as the tolerance. */
function around(ordered: readonly Range[], { start, end }: Range, tolerance: Seconds): Range[] {
  const near: Range[] = [];
  for (let k = firstAfter(ordered.length, (n) => (ordered[n] as Range).end, start - 2 * tolerance); k < ordered.length; k++) {
    const one = ordered[k] as Range;
    if (one.start > end + 2 * tolerance) break;
    near.push(one);
  }
  return near;
}

/** Gaps that something is kept on both sides of. */
const seamsIn = ({ sources }: FramePlan, gaps: readonly Range[]): number =>
  gaps.filter(({ start, end }) =>
    sources.some(({ place, media }) => start > place + 1e-6 && end < place + media.duration - 1e-6 && end > place),
  ).length;

function speedsOf(plan: FramePlan, edited: EditedTimeline): Omit<Change, 'steps'>[] {
  const before = plan.events
    .filter((event) => speedOf(event) !== 1)
    .map((event) => ({ speed: speedOf(event), ...clockRange(plan, event) }));
  return edited.events.flatMap((event) => {
    const about = clockRange(edited, event);
    const known = before.find((one) => overlapOf(one, about) > (about.end - about.start) / 2)?.speed ?? 1;
    const speed = speedOf(event);
    if (Math.abs(speed / known - 1) < 0.02) return [];
    const length = event.recordOut - event.recordIn;
    return [
      {
        kind: 'speed' as const,
        about,
        after: 0,
        before: 0,
        frames: Math.round(length - (event.sourceOut - event.sourceIn) / known),
      },
    ];
  });
}

/** What is played more than once. */
function repeatedIn(edited: EditedTimeline, tolerance: Seconds): Omit<Change, 'steps'>[] {
  const changes: Omit<Change, 'steps'>[] = [];
  const seen: Range[] = [];
  const ordered = edited.events.map((event) => clockRange(edited, event)).sort((a, b) => a.start - b.start);
  for (const range of ordered) {
    const last = seen.at(-1);
    if (last && overlapOf(last, range) > tolerance) {
      const about = { start: Math.max(last.start, range.start), end: Math.min(last.end, range.end) };
      changes.push({
        kind: 'repeated',
        about,
        after: 0,
        before: 0,
        frames: Math.round(((about.end - about.start) * edited.rate.num) / edited.rate.den),
      });
    }
    if (!last || range.end > last.end) seen.push(range);
  }
  return changes;
}

/** What is seen by another picture than it was. */
function picturesIn(plan: FramePlan, edited: EditedTimeline, tolerance: Seconds): Omit<Change, 'steps'>[] {
  const before = plan.events.flatMap((event) => {
    const angle = picturesOf(sourceOf(plan, event))[event.angle ?? 0]?.id;
    return isSeenIn(event) && angle !== undefined ? [{ about: clockRange(plan, event), angle }] : [];
  });
  const rangesOf = (pictures: readonly Pick<SeenPicture, 'about' | 'angle'>[], angle?: string) =>
    union(pictures.filter((one) => angle === undefined || one.angle === angle).map(({ about }) => about));
  const seen = rangesOf(before);
  const names = new Map(edited.pictures.map(({ angle, name }) => [angle, name]));
  return [...names].flatMap(([angle, name]) => {
    const now = rangesOf(edited.pictures, angle);
    const stayed = subtract(now, subtract(now, seen));
    return subtract(stayed, rangesOf(before, angle))
      .filter(({ start, end }) => end - start > tolerance)
      .map((about) => ({ kind: 'picture' as const, about, after: 0, before: 0, frames: 0, name, angle }));
  });
}

/** Fewer seams than this say nothing about all of them. */
const LEAST_OPENED = 2;

/** The air that would have left open what was opened: the present one and the median of what was added on that side. */
function airOf(changes: readonly Change[], { cutList }: FramePlan, frame: Seconds): Comparison['air'] {
  const more = (name: 'airAfter' | 'airBefore', side: 'after' | 'before') => {
    const opened = changes
      .filter(({ kind }) => kind === 'opened' || kind === 'closed')
      .map((change) => change[side])
      .filter((count) => count > 0)
      .sort((a, b) => a - b);
    const median = opened[opened.length >> 1];
    const present = Number(cutList.settings[name]);
    if (opened.length < LEAST_OPENED || median === undefined || !Number.isFinite(present)) return {};
    return { [name]: Math.round((present + median * frame) * 100) / 100 };
  };
  return { ...more('airAfter', 'after'), ...more('airBefore', 'before') };
}
