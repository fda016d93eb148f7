import type { DocketEntry, DocketReason } from '@/core/docket/docket.ts';
import type { SeamDoubt } from '@/core/programme/risk.ts';
import { formatLength } from '@/core/time/clock.ts';
import { KIND_LOOKS } from '../kindLooks.ts';

const DOUBTS: Readonly<Record<SeamDoubt, string>> = {
  ending: 'the word before may be cut short',
  onset: 'the next word may begin earlier',
  inside: 'a sound inside was taken for a breath, a knock or noise',
  room: 'the room sounds different on the two sides',
  close: 'this may be meant to stay',
  pitch: 'the voice jumps in pitch',
  word: 'an edge lies inside a word',
};

const REASONS: Readonly<Record<DocketReason, string>> = {
  open: 'not decided',
  sample: 'one of the sure ones, to check them by',
  doubt: 'less sure by what you said of others',
  join: 'its join may be heard',
};

/** What an entry is about. */
export function entryName({ kind, group, start, end }: DocketEntry): string {
  const { name, phrase } = KIND_LOOKS[kind];
  if (kind === 'filler' || kind === 'repeat') return `${name} “${group ?? ''}”`;
  return `${phrase ?? name}, ${formatLength(end - start)}`;
}

/** Why it is on the list, and how sure it is. */
export function entryReason({ why, doubt, word, probability, proposed }: DocketEntry): string {
  const sure = `${Math.round(100 * probability)} % likely to be right to cut`;
  const hangs = word ? `; it hangs on “${word.text}”, of which the words are ${Math.round(100 * word.confidence)} % sure` : '';
  const about = why === 'open' || doubt === undefined || doubt === 'close' ? '' : `: ${DOUBTS[doubt]}`;
  return `${REASONS[why]}${about}; ${sure}${hangs}${proposed === 'stay' ? '; it had better stay' : ''}`;
}

export const proposedWords = { out: 'take out', stay: 'leave in' } as const;
