import type { Verdict } from '@/core/decisions/event.ts';
import { SEAM_LOOKS, type Treatment } from '@/core/detect/settings.ts';
import { withAmount } from '@/core/detect/treatment.ts';
import { HEAR_MARGIN, piecesAcross } from '@/core/programme/across.ts';
import type { SeenProposal } from '@/core/programme/packing.ts';
import type { Piece } from '@/core/programme/programme.ts';
import { chosenFor } from '@/core/programme/views.ts';
import { inMillis, type Range, type Seconds } from '@/core/time/range.ts';
import { KIND_LOOKS } from '../../kindLooks.ts';
import { clockEnd } from '../session/recordings.ts';
import type { Episode } from '../session/state.ts';

const LEAD_IN: Seconds = 1;
/** Shorter cuts are slips of the hand. */
const LEAST_CUT: Seconds = 0.02;

/** Seconds of air that one press opens. */
export const MORE_AIR: Seconds = 0.05;

export type Side = 'start' | 'end';

/** What is taken when one edge is put to a moment: never past the other, never out of the recording. */
export const withEdgeAt = ({ start, end }: Range, side: Side, at: Seconds, duration: Seconds): Range =>
  side === 'start'
    ? { start: Math.max(0, Math.min(at, end - LEAST_CUT)), end }
    : { start, end: Math.min(duration, Math.max(at, start + LEAST_CUT)) };

/** Going through proposals one by one: looked at, heard and decided. */
export class Review {
  constructor(private readonly episode: Episode) {}

  judge(proposal: Pick<SeenProposal, 'kind' | 'found'>, verdict: Verdict): void {
    this.episode.decide({ type: 'verdict', kind: proposal.kind, about: proposal.found, verdict });
    this.episode.store.setState({ focus: { kind: proposal.kind, found: proposal.found }, lit: undefined });
  }

  /** Gives one proposal a treatment of its own. */
  treat(proposal: Pick<SeenProposal, 'kind' | 'found'>, treatment: Treatment): void {
    this.episode.decide({ type: 'treat', kind: proposal.kind, about: proposal.found, treatment });
    this.episode.store.setState({ focus: { kind: proposal.kind, found: proposal.found }, lit: undefined });
  }

  /** Gives the picture the next look at the seam of one proposal: the three that there are, then as it is set for all. */
  turnLook({ kind, found, start, end }: SeenProposal): void {
    const before = chosenFor({ start, end }, this.episode.state.decisions.seams);
    const look = before === undefined ? SEAM_LOOKS[0] : (SEAM_LOOKS[SEAM_LOOKS.indexOf(before) + 1] ?? 'as set');
    this.episode.decide({ type: 'seam', about: inMillis({ start, end }), look });
    this.episode.store.setState({ focus: { kind, found }, lit: undefined });
  }

  /** Puts one edge of a proposal to a moment; where it already is, nothing is decided. */
  moveEdge(proposal: SeenProposal, side: Side, at: Seconds): boolean {
    const taken = inMillis(withEdgeAt(proposal, side, at, clockEnd(this.episode.state.recordings)));
    if (Math.abs(taken[side] - proposal[side]) < 0.001) return false;
    this.episode.decide({ type: 'edge', kind: proposal.kind, about: proposal.found, taken });
    return true;
  }

  /** Leaves more air at both of its sides, or on one; what is too short for that stays in. */
  openAir({ kind, found, start, end }: SeenProposal, side?: Side): void {
    const taken = inMillis({ start: side === 'end' ? start : start + MORE_AIR, end: side === 'start' ? end : end - MORE_AIR });
    if (taken.end - taken.start < LEAST_CUT) this.episode.decide({ type: 'verdict', kind, about: found, verdict: 'stay' });
    else this.episode.decide({ type: 'edge', kind, about: found, taken });
  }

  cutOut(range: Range): void {
    const about = inMillis(range);
    if (about.end - about.start < LEAST_CUT) return;
    this.episode.decide({ type: 'cut', about });
    this.episode.store.setState({ selection: undefined, focus: { kind: 'hand', found: about }, lit: undefined });
  }

  /** The focused proposal as it now is. */
  focused(): SeenProposal | undefined {
    const { cut, focus } = this.episode.state;
    return focus && cut?.same(focus);
  }

  /** Goes to the next or previous proposal that the tray is about, and shows it. */
  step(direction: 1 | -1): void {
    const { cut } = this.episode.state;
    if (!cut || cut.count === 0) return;
    const current = this.focused();
    const at = this.episode.player.sourceTime;
    const { tray } = this.episode.state;
    // Trays that no kind belongs to step through everything.
    const isOfAll = !Object.values(KIND_LOOKS).some((look) => look.tray === tray);
    const isAsked = (at: number) => isOfAll || KIND_LOOKS[cut.kind(at)].tray === tray;
    let index = current ? current.index + direction : -1;
    if (!current) {
      const [first, last] = cut.near({ start: at, end: at + 1e-6 });
      index = first;
      while (index < cut.count && direction > 0 && cut.start(index) < at) index++;
      if (direction < 0) index = last - 1;
    }
    while (index >= 0 && index < cut.count && !isAsked(index)) index += direction;
    if (index < 0 || index >= cut.count) return;
    this.visit(cut.at(index));
    if (this.episode.state.hearsSteps) this.hear(false);
  }

  visit(proposal: SeenProposal): void {
    this.episode.store.setState({ focus: { kind: proposal.kind, found: proposal.found } });
    this.episode.player.seek(Math.max(0, proposal.start - LEAD_IN));
  }

  /** Plays across the focused proposal: as treated, or with the material in. */
  hear(withMaterial: boolean): void {
    const proposal = this.focused();
    if (proposal) void this.hearAcross(proposal, withMaterial);
  }

  /** Plays across a proposal, other cuts left out. @returns whether it was heard to its end */
  async hearAcross(proposal: SeenProposal, withMaterial: boolean): Promise<boolean> {
    const pieces = this.across(proposal, withMaterial);
    return pieces.length > 0 && this.episode.player.playOnce(pieces);
  }

  /** Has the sound of a proposal ready that will be heard next. */
  prefetchAcross(proposal: SeenProposal, withMaterial: boolean): void {
    this.episode.player.prefetch(this.across(proposal, withMaterial));
  }

  private across(proposal: SeenProposal, withMaterial: boolean): Piece[] {
    const { cut, decisions } = this.episode.state;
    if (!cut) return [];
    const { hurrySound } = decisions.settings;
    const { amount } = withAmount(proposal.treatment, decisions.settings);
    return piecesAcross(cut.programme, { ...proposal, amount }, withMaterial ? 'with' : 'cut', HEAR_MARGIN, hurrySound);
  }
}
