import type { DecidedProposal } from '../decisions/matching.ts';
import type { TakeGroup } from '../detect/takes/takes.ts';

/** Groups with what stays of them once verdicts about single attempts have had their say: one put back stays as well. */
export function withVerdicts(groups: readonly TakeGroup[], proposals: readonly DecidedProposal[]): TakeGroup[] {
  const back = proposals.filter(({ kind, verdict }) => kind === 'retake' && verdict === 'stay');
  return groups.map((group) => {
    const more = back.filter((proposal) => proposal.group === group.name).map(({ found }) => found);
    if (more.length === 0) return group;
    return { ...group, chosen: true, kept: [...group.kept, ...more].sort((a, b) => a.start - b.start) };
  });
}
