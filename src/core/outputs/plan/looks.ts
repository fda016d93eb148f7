import type { Cut } from '../../programme/cutlist.ts';
import { pieceBefore } from '../../programme/programme.ts';
import type { CentrePoint } from '../../programme/views.ts';
import { silencesAmong, viewsOf } from '../../programme/views.ts';
import { framesNear } from '../../time/rate.ts';
import { inCarrier } from './carriers.ts';
import { type FramePlan, goesOn, isSeenIn, pictureOn, speedOf, type TimelineEvent } from './framePlan.ts';

/** Less than anything that could be seen, more than float64 loses on the clock. */
const SLACK = 1e-6;

/**
 * A plan with how the pictures of its events look: larger than recorded, and how many frames on either side of its start the picture
 * before goes over into one. A dissolve needs frames beyond both sides of its seam; two of one event may meet and never overlap.
 * @param centre the point that stays where it is in a picture that is shown larger
 */
export function withLooks(
  plan: FramePlan,
  { programme, settings, proposals, seams = [] }: Pick<Cut, 'programme' | 'settings' | 'proposals' | 'seams'>,
  centre: CentrePoint = plan.centre,
): FramePlan {
  const { events, meant, rate } = plan;
  const views = viewsOf(programme, settings, seams, silencesAmong(proposals));
  if (views.every(({ closer, dissolve }) => closer === 0 && dissolve === 0)) return plan;
  const starts = new Map(meant.map(({ event, start }) => [event, start]));
  const seen = events.map((event, k) => {
    const start = starts.get(k);
    const index = start === undefined || !isSeenIn(event) ? -1 : pieceBefore(programme, start + SLACK);
    const [piece, view] = [programme.pieces[index], views[index]];
    if (start === undefined || !piece || !view || start >= piece.end) return event;
    const begins = Math.abs(start - piece.start) < SLACK;
    const half = begins ? halfBefore(events[k - 1], event, framesNear(view.dissolve / 2, rate), plan) : 0;
    return { ...event, ...(view.closer > 0 && { closer: view.closer }), ...(half > 0 && { dissolve: half }) };
  });
  return { ...plan, events: seen, centre };
}

/** Frames on either side of a seam that a dissolve has, of those that are wanted. */
function halfBefore(before: TimelineEvent | undefined, event: TimelineEvent, wanted: number, plan: FramePlan): number {
  // Where what goes is marked and stays, nothing is cut; and each angle has a track of its own, which nothing goes over from.
  if (
    !before ||
    goesOn(before, event) ||
    before.angle !== event.angle ||
    !isSeenIn(before) ||
    speedOf(before) !== 1 ||
    speedOf(event) !== 1
  )
    return 0;
  const picture = pictureOn(plan, before, before.angle ?? 0);
  const next = pictureOn(plan, event, event.angle ?? 0);
  if (!picture || !next) return 0;
  const ahead = picture.pictureLength - inCarrier(picture, before).sourceOut;
  const lengths = [before, event].map(({ recordIn, recordOut }) => recordOut - recordIn);
  return Math.max(
    0,
    Math.floor(Math.min(wanted, inCarrier(next, event).sourceIn, ahead, ...lengths.map((length) => length / 2))),
  );
}

/** How far the middle of a picture that is shown larger lies off the middle of the frame, as shares of its width and height. */
export const offsetOf = (closer: number, { x, y }: CentrePoint): CentrePoint => ({
  x: closer * (0.5 - x),
  y: closer * (0.5 - y),
});
