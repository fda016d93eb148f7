import type { Break } from '../../decisions/layout.ts';
import { LEAST_PART, partedAt } from '../../programme/parts.ts';
import { type Frames, frames, framesUp } from '../../time/rate.ts';
import type { FramePlan } from './framePlan.ts';
import { momentOnTimeline, type Timeline } from './onTimeline.ts';

/** A part of what a timeline shows, under a name. */
export interface Chapter {
  readonly title: string;
  readonly from: Frames;
  readonly to: Frames;
}

/** The chapters of a timeline, from break to break. Without breaks it is one, under the timeline's title. */
export function chaptersOf(plan: Timeline & Pick<FramePlan, 'title'>, breaks: readonly Break[]): Chapter[] {
  if (breaks.length === 0) return [{ title: plan.title, from: frames(0), to: plan.length }];
  const at = (moment: number) => momentOnTimeline(plan, moment);
  return partedAt(breaks, { at, length: plan.length, least: framesUp(LEAST_PART, plan.rate) }).map(({ title, start, end }) => ({
    title,
    from: frames(start),
    to: frames(end),
  }));
}
