import type { DecidedProposal } from '../../decisions/matching.ts';
import { overlapOf, type Range, type Seconds, toMillis } from '../../time/range.ts';
import type { Change, Step } from './change.ts';

/** The decisions that would do here what an editor did on their timeline. */
export function stepsOf(
  change: Omit<Change, 'steps'>,
  proposals: readonly DecidedProposal[],
  { frame, tolerance }: { readonly frame: Seconds; readonly tolerance: Seconds },
): Step[] {
  const { kind, about, to, angle } = change;
  const out = () =>
    proposals.filter(({ verdict, treatment }) => verdict === 'out' && (treatment === 'remove' || treatment === 'shorten'));
  switch (kind) {
    case 'opened':
    case 'closed':
      return edgeSteps(change, out(), frame, tolerance);
    case 'undone':
    case 'restored':
      return out()
        .filter((proposal) => overlapOf(proposal, about) > (proposal.end - proposal.start) / 2)
        .map(({ kind, found }) => ({ type: 'verdict', kind, about: plain(found), verdict: 'stay' }));
    case 'taken out':
      return [{ type: 'cut', about: rounded(about) }];
    case 'moved':
      return to ? [{ type: 'move', about: rounded(about), to: toMillis(to.at), side: to.side }] : [];
    case 'picture':
      return [{ type: 'angle', about: rounded(about), angle: angle ?? '' }];
    default:
      return [];
  }
}

const plain = ({ start, end }: Range): Range => ({ start, end });
const rounded = ({ start, end }: Range): Range => ({ start: toMillis(start), end: toMillis(end) });

/**
 * Edges of the proposals that the stretch which went is made of, both ends at once where it is the same: all that take something of what was
 * opened give it back, and the nearest takes what was closed.
 */
function edgeSteps(
  { about, after, before }: Omit<Change, 'steps'>,
  out: readonly DecidedProposal[],
  frame: Seconds,
  tolerance: Seconds,
): Step[] {
  const inside = out.filter((proposal) => overlapOf(proposal, about) > 0);
  const from = about.start + after * frame;
  const to = about.end - before * frame;
  const first = nearest(inside, (one) => Math.abs(one.start - about.start), tolerance);
  const last = nearest(inside, (one) => Math.abs(one.end - about.end), tolerance);
  const taken = new Map<DecidedProposal, Range>();
  for (const one of inside) {
    const start = (after > 0 && one.start < from) || (after < 0 && one === first) ? from : one.start;
    const end = (before > 0 && one.end > to) || (before < 0 && one === last) ? to : one.end;
    if (start !== one.start || end !== one.end) taken.set(one, { start, end });
  }
  return [...taken].map(
    ([{ kind, found }, { start, end }]): Step =>
      end - start > frame / 2
        ? { type: 'edge', kind, about: plain(found), taken: rounded({ start: Math.max(0, start), end }) }
        : { type: 'verdict', kind, about: plain(found), verdict: 'stay' },
  );
}

function nearest(
  proposals: readonly DecidedProposal[],
  away: (one: DecidedProposal) => Seconds,
  tolerance: Seconds,
): DecidedProposal | undefined {
  return proposals.filter((one) => away(one) <= tolerance).sort((a, b) => away(a) - away(b))[0];
}
