import { firstAfter, overlapWith, type Range, type Seconds, subtract } from '../../time/range.ts';
import { wordsIn } from '../../transcript/wordsIn.ts';
import type { Spoken } from './spoken.ts';

/** More sound than this is no mere remark. */
export const REMARK_SECONDS: Seconds = 1.5;
/** A silence that begins no later than this behind what is said follows at once. */
const AT_ONCE: Seconds = 0.2;

/** Seconds of sound in a stretch that no word covers: a transcript may begin late, end early, or lack whole sentences. */
export function unwrittenIn({ words, sound }: Spoken, range: Range): Seconds {
  const { silences } = sound();
  const bare = subtract([range], words.slice(...wordsIn(words, range)));
  return bare.reduce((sum, one) => sum + one.end - one.start - overlapWith(silences, one), 0);
}

/** How far after `from` what goes may reach: where more than a remark is said that nobody wrote, no further than the silence before it. */
export function reachAfter(spoken: Spoken, from: Seconds, to: Seconds): Seconds {
  if (unwrittenIn(spoken, { start: from, end: to }) <= REMARK_SECONDS) return to;
  const { silences } = spoken.sound();
  const behind = silences[firstAfter(silences.length, (k) => (silences[k] as Range).end, from)];
  return behind && behind.start <= from + AT_ONCE ? Math.min(to, behind.end) : from;
}

/** The same before `to`: how far back to `from`. */
export function reachBefore(spoken: Spoken, from: Seconds, to: Seconds): Seconds {
  if (unwrittenIn(spoken, { start: from, end: to }) <= REMARK_SECONDS) return from;
  const { silences } = spoken.sound();
  const before = silences[firstAfter(silences.length, (k) => (silences[k] as Range).start, to) - 1];
  return before && before.end >= to - AT_ONCE ? Math.max(from, before.start) : to;
}
