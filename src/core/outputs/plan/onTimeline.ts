import { firstAfter, type Seconds } from '../../time/range.ts';
import { type FrameRate, type Frames, frames, framesDown, framesUp } from '../../time/rate.ts';
import type { Word } from '../../transcript/word.ts';
import { type FramePlan, goesOn, isHeardIn, type Meant, speedOf, type TimelineEvent } from './framePlan.ts';

/** What is needed to say where on a timeline a moment of the clock is. */
export type Timeline = Pick<FramePlan, 'events' | 'meant' | 'rate' | 'sources' | 'length'>;

/** A word as a timeline shows it: its seconds are exact, its frames those in which it sounds. */
export interface PlacedWord {
  /** `start` and `end` are seconds from the timeline's start */
  readonly word: Word;
  /** first frame in which it sounds, and the first after it */
  readonly from: Frames;
  readonly to: Frames;
}

/**
 * The words that a timeline plays at their speed, in the order in which they are heard there. A word belongs to what holds its middle; one
 * that is played twice comes twice.
 */
export function wordsOnTimeline(timeline: Timeline, words: readonly Word[]): PlacedWord[] {
  const { events, meant } = timeline;
  const runs = runsOf(events);
  const latestEnd = endsSoFar(meant);
  const placed: PlacedWord[] = [];
  for (const word of words) {
    const middle = (word.start + word.end) / 2;
    let k = firstAfter(meant.length, (n) => (meant[n] as Meant).start, middle) - 1;
    for (; k >= 0 && (latestEnd[k] as Seconds) > middle; k--) {
      const { end, event } = meant[k] as Meant;
      const shown = events[event] as TimelineEvent;
      if (middle < end && isHeardIn(shown) && shown.sound === undefined) placed.push(placedWord(timeline, word, event, runs));
    }
  }
  return placed.sort((a, b) => a.word.start - b.word.start);
}

/** Where a moment of the clock is on a timeline; one that is not shown is where it went. */
export function momentOnTimeline(timeline: Timeline, at: Seconds): Frames {
  const { events, meant, rate } = timeline;
  const k = firstAfter(meant.length, (n) => (meant[n] as Meant).start, at) - 1;
  const found = meant[k];
  if (!found) {
    const [earliest] = meant;
    return earliest ? (events[earliest.event] as TimelineEvent).recordIn : frames(0);
  }
  const event = events[found.event] as TimelineEvent;
  if (at >= found.end) return event.recordOut;
  const own = framesDown(sourceSeconds(timeline, event, at), rate);
  return within(event, event.recordIn + Math.floor((own - event.sourceIn) / speedOf(event)));
}

const within = ({ recordIn, recordOut }: TimelineEvent, count: number): Frames =>
  frames(Math.max(recordIn, Math.min(recordOut, count)));

const sourceSeconds = ({ sources }: Pick<Timeline, 'sources'>, { source = 0 }: TimelineEvent, at: Seconds): Seconds =>
  at - (sources[source]?.place ?? 0);

/** Of each event, the first and the last of those that play on without a cut with it. */
interface Run {
  readonly first: TimelineEvent;
  last: TimelineEvent;
}

function runsOf(events: readonly TimelineEvent[]): readonly Run[] {
  const runs: Run[] = [];
  for (const [k, event] of events.entries()) {
    const before = events[k - 1];
    const run = runs[k - 1];
    if (run && before && goesOn(before, event) && before.recordOut === event.recordIn && plays(before) && plays(event)) {
      run.last = event;
      runs.push(run);
    } else runs.push({ first: event, last: event });
  }
  return runs;
}

const plays = (event: TimelineEvent): boolean => isHeardIn(event) && speedOf(event) === 1;

function endsSoFar(meant: readonly Meant[]): Seconds[] {
  let latest = Number.NEGATIVE_INFINITY;
  return meant.map(({ end }) => {
    latest = Math.max(latest, end);
    return latest;
  });
}

function placedWord(timeline: Timeline, word: Word, index: number, runs: readonly Run[]): PlacedWord {
  const { rate } = timeline;
  const event = timeline.events[index] as TimelineEvent;
  const { first, last } = runs[index] as Run;
  const [start, end] = [sourceSeconds(timeline, event, word.start), sourceSeconds(timeline, event, word.end)];
  const speed = speedOf(event);
  const least = first.recordIn;
  const most = last.recordOut;
  const frameAt = (own: number) => event.recordIn + (own - event.sourceIn) / speed;
  const from = Math.min(most - 1, Math.max(least, Math.floor(frameAt(framesDown(start, rate)))));
  const to = Math.max(from + 1, Math.min(most, Math.ceil(frameAt(framesUp(end, rate)))));
  const secondsAt = (own: Seconds) => {
    const exact = frameAt((own * rate.num) / rate.den);
    return secondsOf(Math.max(least, Math.min(most, exact)), rate);
  };
  return { word: { ...word, start: secondsAt(start), end: secondsAt(end) }, from: frames(from), to: frames(to) };
}

/** To the microsecond: finer would say nothing but the noise of float64. */
const secondsOf = (count: number, { num, den }: FrameRate): Seconds => Math.round(((count * den) / num) * 1e6) / 1e6;
