import type { Break } from '../../decisions/layout.ts';
import { type Frames, frames, framesUp } from '../../time/rate.ts';
import type { FramePlan } from './framePlan.ts';
import { momentOnTimeline, type Timeline } from './onTimeline.ts';

/** A part of what a timeline shows, under a name. */
export interface Chapter {
  readonly title: string;
  readonly from: Frames;
  readonly to: Frames;
}

/** Shorter parts are none: two breaks that met at one seam. */
const LEAST_SECONDS = 0.04;

/** The chapters of a timeline, from break to break. Without breaks it is one, under the timeline's title. */
export function chaptersOf(plan: Timeline & Pick<FramePlan, 'title'>, breaks: readonly Break[]): Chapter[] {
  const least = framesUp(LEAST_SECONDS, plan.rate);
  const edges = breaks
    .map(({ at, title }) => ({ title, from: momentOnTimeline(plan, at) }))
    .sort((a, b) => a.from - b.from)
    .filter(({ from }) => from <= plan.length - least || from === 0);
  const begins: { title: string; from: Frames }[] = [{ title: edges.length === 0 ? plan.title : '', from: frames(0) }];
  for (const edge of edges) {
    const last = begins.at(-1);
    if (last && edge.from - last.from < least) begins[begins.length - 1] = { title: edge.title, from: last.from };
    else begins.push(edge);
  }
  return begins.map(({ title, from }, k) => ({
    title: title || `Part ${k + 1}`,
    from,
    to: begins[k + 1]?.from ?? plan.length,
  }));
}
