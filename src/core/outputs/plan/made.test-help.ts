import type { Cut } from '../../programme/cutlist.ts';
import type { FrameRate } from '../../time/rate.ts';
import { type FramePlan, type PlanOptions, planFrames } from './framePlan.ts';
import type { HandoffMedia } from './media.ts';

/** The plan of a single recording. */
export const planOne = (title: string, media: HandoffMedia, cut: Cut, rate?: FrameRate, options: PlanOptions = {}): FramePlan =>
  planFrames(title, [{ start: 0, end: media.duration, media }], cut, { rate, ...options });
