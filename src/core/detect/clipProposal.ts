import type { Range } from '../time/range.ts';
import { type Proposal, proposalId } from './detector.ts';

/** What is left of a proposal on one side of a border is nothing where it is shorter than this. */
const LEAST_KEPT = 0.04;

/** A proposal that ends at the borders of a region; undefined where hardly anything of it lies inside. */
export function clipProposal(proposal: Proposal, region: Range): Proposal | undefined {
  if (proposal.start >= region.start && proposal.end <= region.end) return proposal;
  const within = (range: Range): Range => ({
    start: Math.max(range.start, region.start),
    end: Math.min(range.end, region.end),
  });
  const range = within(proposal);
  if (range.end - range.start < LEAST_KEPT) return undefined;
  const found = within(proposal.found);
  return { ...proposal, ...range, id: proposalId(proposal.kind, found), found, taken: within(proposal.taken) };
}
