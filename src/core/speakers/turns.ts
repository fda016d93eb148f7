import { overlapOf, type Range, type Seconds, union } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';

/** What somebody says without a longer pause. */
export interface Turn extends Range {
  readonly speaker: string;
}

/** A shorter pause is one within a turn. */
const PAUSE: Seconds = 0.8;
/** Words of two people that meet for less may only be timed so. */
const LEAST_OVERLAP: Seconds = 0.15;
/** What overlaps again this soon is one stretch. */
const NEAR: Seconds = 0.5;
/** Words that somebody else says meanwhile are looked for among so many before. */
const OTHERS_BEFORE = 12;

/** Turns of all who speak, in order of their starts; those of different speakers may overlap. @param words in order */
export function turnsOf(words: readonly Word[]): Turn[] {
  const turns: { speaker: string; start: Seconds; end: Seconds }[] = [];
  const last = new Map<string, (typeof turns)[number]>();
  for (const { speaker, start, end } of words) {
    const own = last.get(speaker);
    if (own && start - own.end < PAUSE) own.end = Math.max(own.end, end);
    else {
      const turn = { speaker, start, end };
      last.set(speaker, turn);
      turns.push(turn);
    }
  }
  return turns;
}

/** Where two or more people speak at once: by the times of their words, or as it was heard on one microphone. @param words in order */
export function overlapsOf(words: readonly Word[]): Range[] {
  const at: Range[] = [];
  const ends = new Map<string, Seconds>();
  for (const { speaker, start, end, overlapped } of words) {
    if (overlapped) at.push({ start, end });
    for (const [other, until] of ends)
      if (other !== speaker && Math.min(until, end) - start >= LEAST_OVERLAP) at.push({ start, end: Math.min(until, end) });
    ends.set(speaker, Math.max(ends.get(speaker) ?? 0, end));
  }
  return union(at.map(({ start, end }) => ({ start, end: end + NEAR }))).map(({ start, end }) => ({ start, end: end - NEAR }));
}

/** Whether somebody else speaks while some words are said: for as long as counts, or for half of what they take. @param words in order */
export function isSaidOverOthers(words: readonly Word[], first: number, count: number): boolean {
  const own = words.slice(first, first + count);
  if (own.some(({ overlapped }) => overlapped)) return true;
  const [from, to] = [own[0] as Word, own.at(-1) as Word];
  let over = 0;
  for (let k = Math.max(0, first - OTHERS_BEFORE); k < words.length && (words[k] as Word).start < to.end; k++)
    if ((words[k] as Word).speaker !== from.speaker) over += overlapOf(words[k] as Word, { start: from.start, end: to.end });
  return over > 0 && over >= Math.min(LEAST_OVERLAP, (to.end - from.start) / 2);
}
