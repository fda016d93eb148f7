import type { Proposal } from '../detect/detector.ts';
import { firstAfter, overlapOf } from '../time/range.ts';
import type { Verdict } from './event.ts';
import type { DecisionState, VerdictStep } from './replay.ts';

/** A proposal with what is decided about it. */
export interface DecidedProposal extends Proposal {
  readonly verdict: Verdict;
  /** whether a person said so, or the program's own confidence */
  readonly decided: boolean;
}

/** At and over this confidence a proposal is out unless somebody says otherwise; under it, it stays open. */
export const SURE = 0.6;

export interface Matched {
  readonly proposals: DecidedProposal[];
  /** verdicts that meet no proposal now; they stay in the log and apply again when one returns */
  readonly unmatched: readonly VerdictStep[];
}

/**
 * Applies decisions to proposals: hand-made cuts join them, and a verdict goes to those of its kind that cover at
 * least half of the range it was about. The latest verdict on a proposal wins.
 */
export function applyDecisions(proposals: readonly Proposal[], { verdicts, cuts }: DecisionState): Matched {
  const all: Proposal[] = [...proposals];
  for (const cut of cuts) {
    all.push({
      id: `hand-${cut.id}`,
      kind: 'hand',
      ...cut.about,
      found: cut.about,
      treatment: 'remove',
      confidence: 1,
      evidence: {},
    });
  }
  if (cuts.length > 0) all.sort((a, b) => a.start - b.start || a.end - b.end);
  const given = new Map<number, Verdict>();
  const unmatched: VerdictStep[] = [];
  const longest = all.reduce((most, p) => Math.max(most, p.found.end - p.found.start), 0);
  for (const step of verdicts) {
    const { about } = step;
    const half = (about.end - about.start) / 2;
    let met = false;
    // Found ranges start before what is taken of them, by less than the longest found range.
    const first = firstAfter(all.length, (k) => (all[k] as Proposal).start, about.start - longest);
    for (let k = first; k < all.length; k++) {
      const proposal = all[k] as Proposal;
      if (proposal.found.start >= about.end && proposal.start >= about.end) break;
      if (proposal.kind !== step.kind || overlapOf(proposal.found, about) < half) continue;
      given.set(k, step.verdict);
      met = true;
    }
    if (!met) unmatched.push(step);
  }
  return {
    // Written out: spreading thousands of proposals at each step of a slider takes longer than all the rest here.
    proposals: all.map((proposal, k) => ({
      id: proposal.id,
      kind: proposal.kind,
      start: proposal.start,
      end: proposal.end,
      found: proposal.found,
      treatment: proposal.treatment,
      confidence: proposal.confidence,
      group: proposal.group,
      evidence: proposal.evidence,
      verdict: given.get(k) ?? (proposal.confidence >= SURE ? 'out' : 'open'),
      decided: given.has(k) || proposal.kind === 'hand',
    })),
    unmatched,
  };
}
