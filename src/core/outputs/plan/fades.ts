import { type Carrier, carrierOf, holds, inCarrier } from './carriers.ts';
import { type FramePlan, goesOn, isHeardIn, sourceOf, speedOf, type TimelineEvent } from './framePlan.ts';

/** The wanted length of cross-fades, in frames of the timeline and parts of one. */
export const crossfadeFrames = ({ cutList, rate }: FramePlan): number =>
  Number(cutList.settings.crossfade ?? 0) * (rate.num / rate.den);

/** Whether fades are wanted that a timeline of frames cannot say. */
export const isFadeTooShort = (plan: FramePlan): boolean => crossfadeFrames(plan) > 0 && crossfadeFrames(plan) < 2;

/** Frames of a cross-fade on each side of a cut. */
type Half = number;

/** Whether there is sound of an event on a track: the file that carries it has the stream, and reaches as far. */
export const isRecorded = (plan: FramePlan, event: TimelineEvent, stream: number): boolean => {
  const source = sourceOf(plan, event);
  return source.media.tracks > stream && holds(carrierOf(source, { stream }), event);
};

/** Whether an event's sound is on a track, and the event is heard. */
export const hasSound = (plan: FramePlan, event: TimelineEvent, stream: number): boolean =>
  isHeardIn(event) && isRecorded(plan, event, stream);

/**
 * The fade before an event on a track of sound, in whole frames on each side. None where that is less than one, at splits, and beside what
 * is hurried; two fades of one clip may meet and never overlap, and none needs what its file does not hold.
 */
export function fadeBefore(plan: FramePlan, index: number, stream: number): Half | undefined {
  const wanted = crossfadeFrames(plan);
  const [before, event] = [plan.events[index - 1], plan.events[index]];
  if (wanted < 1 || !before || !event || goesOn(before, event) || before.recordOut !== event.recordIn) return undefined;
  if (!hasSound(plan, before, stream) || !hasSound(plan, event, stream)) return undefined;
  if (speedOf(before) !== 1 || speedOf(event) !== 1) return undefined;
  const half = Math.min(wanted / 2, ...[before, event].map(({ recordIn, recordOut }) => (recordOut - recordIn) / 2));
  const [left, right] = [before, event].map((one) => carrierOf(sourceOf(plan, one), { stream })) as [Carrier, Carrier];
  const ahead = left.length - inCarrier(left, before).sourceOut;
  const whole = Math.floor(Math.min(half, inCarrier(right, event).sourceIn, ahead));
  return whole < 1 ? undefined : whole;
}
