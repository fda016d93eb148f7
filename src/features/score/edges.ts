import { isOf } from '@/core/detect/kinds.ts';
import type { CutView, SeenProposal } from '@/core/programme/packing.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import type { Side } from '../episode/review/review.ts';

/** One end of a proposal, as it can be pulled. */
export interface Edge {
  readonly proposal: SeenProposal;
  readonly side: Side;
}

/** The proposals that are drawn over a stretch, one of them as it is while an edge of it is pulled. */
export function proposalsIn(cut: CutView, part: Range, pulled?: SeenProposal): SeenProposal[] {
  const [first, last] = cut.near(part);
  const seen: SeenProposal[] = [];
  for (let k = first; k < last; k++) {
    if (cut.end(k) <= part.start) continue;
    const proposal = cut.at(k);
    // What goes with something larger anyway would only clutter it.
    if (isOf('asides', proposal.kind) && proposal.verdict === 'out' && !proposal.decided) continue;
    if (pulled && isSame(proposal, pulled)) continue;
    seen.push(proposal);
  }
  if (pulled && pulled.start < part.end && pulled.end > part.start) {
    seen.push(pulled);
    seen.sort((a, b) => a.start - b.start || a.end - b.end);
  }
  return seen;
}

const isSame = (a: SeenProposal, b: SeenProposal): boolean =>
  a.kind === b.kind && a.found.start === b.found.start && a.found.end === b.found.end;

/** The nearest edge of a bracket within reach of a moment. What stays has no bracket, and so no edges. */
export function edgeNear(cut: CutView, parts: readonly Range[], at: Seconds, reach: Seconds): Edge | undefined {
  let best: Edge | undefined;
  let nearest = reach;
  for (const part of parts) {
    for (const proposal of proposalsIn(cut, part)) {
      if (proposal.verdict === 'stay') continue;
      for (const side of ['start', 'end'] as const) {
        const edge = proposal[side];
        const away = Math.abs(edge - at);
        if (edge < part.start || edge > part.end || away > nearest) continue;
        nearest = away;
        best = { proposal, side };
      }
    }
  }
  return best;
}
