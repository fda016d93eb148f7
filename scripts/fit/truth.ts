import { z } from 'zod';
import type { Proposal } from '@/core/detect/detector.ts';
import { overlapOf, type Range, type Seconds, union } from '@/core/time/range.ts';

const span = z.tuple([z.number(), z.number()]);

/** What is known of a recording: see docs/detection.md, Fitting. */
export const truthSchema = z.object({
  duration: z.number(),
  /** what is known: everything, or takes alone */
  about: z.enum(['all', 'takes']).default('all'),
  /** recordings with one name here hold the same lines: none of them is told by what was learned from another */
  family: z.string().optional(),
  /** seconds that a word's edge may be off by */
  wordTol: z.number().default(0.02),
  words: z.array(
    z.object({
      text: z.string(),
      start: z.number(),
      end: z.number(),
      tag: z.enum(['word', 'filler', 'maybe', 'repeat', 'cue']),
    }),
  ),
  speech: z.array(span),
  retakes: z.array(
    z.object({
      attempts: z.array(z.object({ start: z.number(), end: z.number(), kind: z.string(), best: z.boolean() })),
    }),
  ),
});
export type Truth = z.output<typeof truthSchema>;

/** This much of the sound of what goes must be what it is said to be. */
const RIGHT_SHARE = 0.7;

/** This much of a saying lies in attempts that go, where it goes anyway. */
const GOES_SHARE = 0.9;

const plain = (text: string): string => text.toLowerCase().replace(/[^a-z0-9']/g, '');
const covered = (range: Range, by: readonly Range[]): Seconds => union(by).reduce((sum, one) => sum + overlapOf(range, one), 0);

/**
 * What a recording's truth says of a proposal: whether it clips no word that stays, and is what it says; nothing of what goes
 * anyway, or may be said either way.
 */
export function labeller({ words, speech, retakes, wordTol }: Truth): (proposal: Proposal) => boolean | undefined {
  const spoken = speech.map(([start, end]) => ({ start, end }));
  const spare = retakes.flatMap(({ attempts }) => attempts.filter(({ best }) => !best));
  const isSpare = (range: Range) => covered(range, spare) >= 0.5 * (range.end - range.start);
  const tagged = (...tags: readonly string[]) => words.filter(({ tag }) => tags.includes(tag));
  const repeated = repeatedWords(words);
  const stay = words.filter((word) => word.tag === 'word' && !isSpare(word));
  const fine: Partial<Record<Proposal['kind'], readonly Range[]>> = {
    filler: [...tagged('filler', 'maybe', 'cue'), ...spare, ...repeated],
    repeat: [...repeated, ...tagged('filler'), ...spare],
    retake: [...spare, ...tagged('cue', 'filler')],
  };
  const neutral: Partial<Record<Proposal['kind'], readonly Range[]>> = {
    filler: [...spare, ...tagged('maybe', 'cue')],
    repeat: spare,
  };
  return (proposal) => {
    if (covered(proposal.found, neutral[proposal.kind] ?? []) >= 0.5 * (proposal.found.end - proposal.found.start))
      return undefined;
    const may = proposal.kind === 'repeat' ? new Set<Range>(repeated) : undefined;
    if (stay.some((word) => overlapOf(word, proposal) > wordTol && !may?.has(word))) return false;
    const allowed = fine[proposal.kind];
    if (!allowed) return true;
    const sound = covered(proposal, spoken);
    const of = (range: Range) => covered(range, spoken);
    const right = union(allowed).reduce(
      (sum, one) => sum + of({ start: Math.max(one.start, proposal.start), end: Math.min(one.end, proposal.end) }),
      0,
    );
    return sound > 0 && right / sound >= RIGHT_SHARE;
  };
}

/** Words said twice by accident: both sayings, since either may go. */
function repeatedWords(words: Truth['words']): Truth['words'] {
  const repeated: Truth['words'] = [];
  for (let k = 0; k < words.length; ) {
    if (words[k]?.tag !== 'repeat') {
      k++;
      continue;
    }
    let until = k;
    while (words[until]?.tag === 'repeat') until++;
    let before = k - 1;
    while (words[before]?.tag === 'filler') before--;
    const first = words.slice(Math.max(0, before - (until - k) + 1), before + 1);
    const second = words.slice(k, until);
    if (first.length === second.length && first.every(({ text }, n) => plain(text) === plain(second[n]?.text ?? '')))
      repeated.push(...first);
    repeated.push(...second);
    k = until;
  }
  return repeated;
}

/**
 * Whether two sayings are tries at one line: each holds most of an attempt of one group, and nothing else that stays.
 * @param goesOn the first is broken off, and goes: the second may hold what comes after its attempt, since it stays
 */
export function areTries({ retakes, words }: Truth, left: Range, right: Range, goesOn = false): boolean {
  const isAttempt = (attempt: Range, range: Range) =>
    range.end > range.start &&
    overlapOf(attempt, range) >= 0.6 * Math.min(range.end - range.start, attempt.end - attempt.start) &&
    words.filter(({ tag, start, end }) => {
      const middle = (start + end) / 2;
      const inside = ({ start: from, end: to }: Range) => middle >= from && middle < to;
      return tag === 'word' && inside(range) && !inside(attempt);
    }).length <= 1;
  return retakes.some(({ attempts }) => {
    const a = attempts.findIndex((attempt) => isAttempt(attempt, left));
    const b = attempts.findIndex((attempt) =>
      isAttempt(attempt, goesOn ? { start: right.start, end: Math.min(right.end, attempt.end) } : right),
    );
    return a >= 0 && b >= 0 && a !== b;
  });
}

/** Whether what is said there is an attempt that does not stay: it may go for the sake of whatever. */
export function goesAnyway({ retakes }: Truth, range: Range): boolean {
  const spare = retakes.flatMap(({ attempts }) => attempts.filter(({ best }) => !best));
  return covered(range, spare) >= GOES_SHARE * (range.end - range.start);
}
