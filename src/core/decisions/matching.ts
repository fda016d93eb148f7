import type { Proposal } from '../detect/detector.ts';
import { certaintyOf } from '../detect/settings.ts';
import { treatedRange, withAmount } from '../detect/treatment.ts';
import { STAYS_UNDER, toldWith } from '../lessons/correction.ts';
import { mergeInOrder } from '../time/merge.ts';
import { firstAfter, overlapOf, type Range } from '../time/range.ts';
import type { Verdict } from './event.ts';
import type { AboutStep, CutStep, DecisionState } from './replay.ts';

/** A proposal with what is decided about it. */
export interface DecidedProposal extends Proposal {
  readonly verdict: Verdict;
  /** whether a person said so, or the program's own confidence */
  readonly decided: boolean;
  /** decided with many others, without being listened to */
  readonly unheard?: boolean | undefined;
  /** what was told of it before lessons, where they tell otherwise */
  readonly untaught?: number | undefined;
  /** what would be taken of it, where a person moved an edge of that */
  readonly proposed?: Range | undefined;
}

export interface Matched {
  readonly proposals: DecidedProposal[];
  /** decisions that meet no proposal now; they stay in the log and apply again when one returns */
  readonly unmatched: readonly AboutStep[];
}

/** What is decided about one proposal, the latest of each kind of step. */
type Given = { [T in AboutStep['type']]?: Extract<AboutStep, { type: T }> };

/**
 * Applies decisions to proposals: hand-made cuts join them, and a step about a proposal goes to those of its kind that
 * cover at least half of the range it was about. The latest step wins.
 */
export function applyDecisions(
  proposals: readonly Proposal[],
  {
    about: steps,
    cuts,
    settings,
    lessons = [],
  }: Pick<DecisionState, 'about' | 'cuts' | 'settings'> & Partial<Pick<DecisionState, 'lessons'>>,
): Matched {
  const all = cuts.length > 0 ? mergeInOrder([proposals, cuts.map(byHand)]) : proposals;
  const given = new Map<number, Given>();
  const unmatched: AboutStep[] = [];
  const longest = steps.length > 0 ? all.reduce((most, p) => Math.max(most, p.found.end - p.found.start), 0) : 0;
  for (const step of steps) {
    const { about } = step;
    const half = (about.end - about.start) / 2;
    let met = false;
    // Found ranges start before what is taken of them, by less than the longest found range.
    const first = firstAfter(all.length, (k) => (all[k] as Proposal).start, about.start - longest);
    for (let k = first; k < all.length; k++) {
      const proposal = all[k] as Proposal;
      if (proposal.found.start >= about.end && proposal.start >= about.end) break;
      if (proposal.kind !== step.kind || overlapOf(proposal.found, about) < half) continue;
      given.set(k, { ...given.get(k), [step.type]: step });
      met = true;
    }
    if (!met) unmatched.push(step);
  }
  const certainty = certaintyOf(settings);
  const toldOf = toldWith(lessons);
  const decided = all.map((proposal, k) => {
    const known = given.size > 0 ? given.get(k) : undefined;
    const shaped = known?.treat || known?.edge ? reshaped(proposal, known, settings) : proposal;
    const told = toldOf?.(proposal) ?? proposal.confidence;
    const verdict = known?.verdict?.verdict ?? (known?.edge ? 'out' : ownVerdict(told, told !== proposal.confidence, certainty));
    return withVerdict(proposal, shaped, told, verdict, known !== undefined || proposal.kind === 'hand', known?.verdict?.unheard);
  });
  if (given.size > 0) decided.sort((a, b) => a.start - b.start || a.end - b.end);
  settleInside(decided);
  return { proposals: decided, unmatched };
}

const ownVerdict = (told: number, isTaught: boolean, certainty: number): Verdict =>
  told >= certainty ? 'out' : isTaught && told <= STAYS_UNDER ? 'stay' : 'open';

const byHand = ({ id, about }: CutStep): Proposal => ({
  id: `hand-${id}`,
  kind: 'hand',
  ...about,
  found: about,
  taken: about,
  treatment: 'remove',
  confidence: 1,
  evidence: {},
});

/**
 * A proposal with what is decided about it. Written out: spreading thousands of proposals at each step of a slider takes
 * longer than all the rest here.
 */
function withVerdict(
  proposal: Proposal,
  shaped: Proposal,
  told: number,
  verdict: Verdict,
  decided: boolean,
  unheard: true | undefined,
): DecidedProposal {
  return {
    id: proposal.id,
    kind: proposal.kind,
    start: shaped.start,
    end: shaped.end,
    found: proposal.found,
    taken: shaped.taken,
    treatment: shaped.treatment,
    amount: shaped.amount,
    confidence: told,
    group: proposal.group,
    evidence: proposal.evidence,
    verdict,
    decided,
    unheard,
    untaught: told === proposal.confidence ? undefined : proposal.confidence,
    proposed: shaped.taken === proposal.taken ? undefined : proposal.taken,
  };
}

/** Nobody needs to be asked about what lies inside something that goes anyway. */
function settleInside(proposals: DecidedProposal[]): void {
  let goneUntil = -1;
  for (const [k, proposal] of proposals.entries()) {
    const { verdict, treatment, end, found, decided } = proposal;
    if (verdict === 'out' && treatment === 'remove') goneUntil = Math.max(goneUntil, end);
    if (verdict !== 'open' || decided) continue;
    let until = goneUntil;
    // What starts a little later may still hold all of it: silence beside it is nobody's question.
    for (let next = k + 1; next < proposals.length && (proposals[next] as DecidedProposal).start <= found.start; next++) {
      const other = proposals[next] as DecidedProposal;
      if (other.verdict === 'out' && other.treatment === 'remove') until = Math.max(until, other.end);
    }
    if (found.end <= until) proposals[k] = { ...proposal, verdict: 'out' };
  }
}

/** A proposal with the edges and the treatment that a person gave it. */
function reshaped(proposal: Proposal, { treat, edge }: Given, settings: DecisionState['settings']): Proposal {
  const taken = edge?.taken ?? proposal.taken;
  const treated = treat ? withAmount(treat.treatment, settings) : { treatment: proposal.treatment, amount: proposal.amount };
  return { ...proposal, taken, ...treated, ...treatedRange(proposal.found, taken, treated) };
}
