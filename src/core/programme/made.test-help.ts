import type { FrameRate } from '../time/rate.ts';
import type { Cut } from './cutlist.ts';
import { type Handoff, type HandoffMedia, handOff } from './handoff.ts';

/** The hand-off of a single recording. */
export const handOffOne = (title: string, media: HandoffMedia, cut: Cut, rate?: FrameRate): Handoff =>
  handOff(title, [{ start: 0, end: media.duration, media }], cut, rate);
