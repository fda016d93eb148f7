import { firstAfter, type Range } from '../../time/range.ts';
import type { FramePlan, TimelineEvent } from '../plan/framePlan.ts';
import { momentOnTimeline } from '../plan/onTimeline.ts';
import type { Change } from './change.ts';
import { clockRange, type EditedTimeline } from './edited.ts';

/**
 * Passages that stand elsewhere on the edited timeline than in the plan: the fewest that must move for the others to be in the plan's
 * order (all but a longest increasing subsequence). Neighbours that moved together are one passage.
 */
export function movedPassages(plan: FramePlan, edited: EditedTimeline): Omit<Change, 'steps'>[] {
  const ranges = edited.events.map((event) => clockRange(edited, event));
  const places = ranges.map(({ start, end }) => momentOnTimeline(plan, (start + end) / 2));
  const stays = longestIncreasing(places, edited.events);
  /** behind each, the next that stays where it was */
  const nextStay = new Array<number>(ranges.length).fill(-1);
  for (let k = ranges.length - 2; k >= 0; k--) nextStay[k] = stays.has(k + 1) ? k + 1 : (nextStay[k + 1] as number);
  const changes: Omit<Change, 'steps'>[] = [];
  for (let k = 0; k < ranges.length; k++) {
    if (stays.has(k)) continue;
    let last = k;
    while (last + 1 < ranges.length && !stays.has(last + 1) && (places[last + 1] as number) >= (places[last] as number)) last++;
    const about = { start: (ranges[k] as Range).start, end: (ranges[last] as Range).end };
    const next = nextStay[last] as number;
    const behind = k > 0 ? ranges[k - 1] : undefined;
    const to =
      next >= 0
        ? ({ at: (ranges[next] as Range).start, side: 'before' } as const)
        : behind
          ? ({ at: behind.end, side: 'after' } as const)
          : undefined;
    if (about.end > about.start) changes.push({ kind: 'moved', about, after: 0, before: 0, frames: 0, ...(to && { to }) });
    k = last;
  }
  return changes;
}

/** Indexes of a longest rising subsequence, the longest in frames among those that begin alike (patience sorting). */
function longestIncreasing(places: readonly number[], events: readonly TimelineEvent[]): Set<number> {
  const tails: number[] = [];
  const before: number[] = [];
  for (const [k, place] of places.entries()) {
    const length = firstAfter(tails.length, (n) => places[tails[n] as number] as number, place);
    before[k] = length > 0 ? (tails[length - 1] as number) : -1;
    tails[length] = k;
  }
  const rising = new Set<number>();
  for (let k = tails.at(-1) ?? -1; k >= 0; k = before[k] as number) rising.add(k);
  return events.length === 0 ? new Set() : rising;
}
