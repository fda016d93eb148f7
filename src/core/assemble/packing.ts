import type { Verdict } from '../decisions/event.ts';
import type { ProposalKind } from '../detect/detector.ts';
import type { HurrySound, Treatment } from '../detect/settings.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import type { Cut } from './cutlist.ts';
import { type Piece, type Programme, programmeOf } from './programme.ts';

/**
 * A cut in three flat arrays, the form in which it leaves the worker: thousands of proposals cross over at each step
 * of a slider, and copying objects would take longer than computing them.
 */
export interface PackedCut {
  readonly duration: Seconds;
  /** `FIELDS` numbers a proposal */
  readonly proposals: Float64Array;
  /** `PIECE_FIELDS` numbers a piece */
  readonly pieces: Float64Array;
  /** names of groups, which proposals refer to by their place here */
  readonly groups: readonly string[];
  /** decisions that meet no proposal now */
  readonly unmatched: number;
}

const FIELDS = 10;
const PIECE_FIELDS = 4;
const TREATMENTS: readonly Treatment[] = ['remove', 'shorten', 'hurry', 'hole'];
/** how a piece is played: as it is, empty, or with one of the sounds of a hurried part */
const MANNERS: readonly (HurrySound | 'hole' | 'plain')[] = ['plain', 'hole', 'mute', 'along', 'pitch'];
const KINDS: readonly ProposalKind[] = ['pause', 'filler', 'repeat', 'retake', 'cue', 'broken', 'head', 'tail', 'hand'];
const VERDICTS: readonly Verdict[] = ['out', 'stay', 'open'];

export function packCut(duration: Seconds, { proposals, programme, unmatched }: Cut): PackedCut {
  const packed = new Float64Array(proposals.length * FIELDS);
  const groups = new Map<string, number>();
  let at = 0;
  for (const proposal of proposals) {
    packed[at++] = proposal.start;
    packed[at++] = proposal.end;
    packed[at++] = proposal.found.start;
    packed[at++] = proposal.found.end;
    packed[at++] = proposal.confidence;
    packed[at++] = KINDS.indexOf(proposal.kind);
    packed[at++] = VERDICTS.indexOf(proposal.verdict);
    packed[at++] = proposal.decided ? 1 : 0;
    packed[at++] = TREATMENTS.indexOf(proposal.treatment);
    packed[at++] = proposal.group === undefined ? -1 : groupIndex(groups, proposal.group);
  }
  const pieces = new Float64Array(programme.pieces.length * PIECE_FIELDS);
  let next = 0;
  for (const piece of programme.pieces) {
    pieces[next++] = piece.start;
    pieces[next++] = piece.end;
    pieces[next++] = piece.rate;
    pieces[next++] = MANNERS.indexOf(piece.hole ? 'hole' : (piece.sound ?? 'plain'));
  }
  return { duration, proposals: packed, pieces, groups: [...groups.keys()], unmatched: unmatched.length };
}

function groupIndex(groups: Map<string, number>, name: string): number {
  const known = groups.get(name);
  if (known !== undefined) return known;
  groups.set(name, groups.size);
  return groups.size - 1;
}

/** One proposal as the interface shows it. */
export interface SeenProposal extends Range {
  readonly index: number;
  readonly kind: ProposalKind;
  readonly found: Range;
  readonly confidence: number;
  readonly verdict: Verdict;
  readonly decided: boolean;
  readonly treatment: Treatment;
  /** what it belongs to: the entry of the lexicon, the words that are repeated */
  readonly group: string | undefined;
}

/** Reads a packed cut; proposals and pieces become objects only when they are looked at, since sliders make many cuts. */
export class CutView {
  readonly count: number;
  readonly open: number;
  /** length of the programme, and joins in it */
  readonly length: Seconds;
  readonly seams: number;
  private built: Programme | undefined;

  constructor(readonly packed: PackedCut) {
    const { proposals, pieces } = packed;
    this.count = proposals.length / FIELDS;
    this.seams = Math.max(0, pieces.length / PIECE_FIELDS - 1);
    let length = 0;
    for (let k = 0; k < pieces.length; k += PIECE_FIELDS)
      length += ((pieces[k + 1] as number) - (pieces[k] as number)) / (pieces[k + 2] as number);
    this.length = length;
    let open = 0;
    for (let k = 0; k < this.count; k++) if (this.verdict(k) === 'open') open++;
    this.open = open;
  }

  get programme(): Programme {
    this.built ??= programmeOf(piecesIn(this.packed.pieces));
    return this.built;
  }

  start = (k: number): Seconds => this.packed.proposals[k * FIELDS] as number;
  end = (k: number): Seconds => this.packed.proposals[k * FIELDS + 1] as number;
  verdict = (k: number): Verdict => VERDICTS[this.packed.proposals[k * FIELDS + 6] as number] as Verdict;

  kind = (k: number): ProposalKind => KINDS[this.packed.proposals[k * FIELDS + 5] as number] as ProposalKind;

  at(index: number): SeenProposal {
    const p = this.packed.proposals;
    const k = index * FIELDS;
    return {
      index,
      start: p[k] as number,
      end: p[k + 1] as number,
      found: { start: p[k + 2] as number, end: p[k + 3] as number },
      confidence: p[k + 4] as number,
      kind: KINDS[p[k + 5] as number] as ProposalKind,
      verdict: this.verdict(index),
      decided: p[k + 7] === 1,
      treatment: TREATMENTS[p[k + 8] as number] as Treatment,
      group: this.packed.groups[p[k + 9] as number],
    };
  }

  /** Indexes `[first, last)` of proposals that may touch a range. Later ones than the first may still end before it. */
  near({ start, end }: Range): [first: number, last: number] {
    // Hand-made cuts may reach over several others, so that ends are not in order: look a little further back.
    const first = Math.max(0, firstAfter(this.count, this.start, start) - 1 - LOOK_BACK);
    return [first, firstAfter(this.count, this.start, end)];
  }

  /** The proposal whose found range holds a moment; the shortest where several do. */
  over(moment: Seconds): SeenProposal | undefined {
    const [first, last] = this.near({ start: moment, end: moment + 1e-6 });
    let best: SeenProposal | undefined;
    for (let k = first; k < Math.min(this.count, last + 1); k++) {
      const seen = this.at(k);
      if (moment < Math.min(seen.start, seen.found.start) || moment >= Math.max(seen.end, seen.found.end)) continue;
      if (!best || seen.end - seen.start < best.end - best.start) best = seen;
    }
    return best;
  }

  /** The proposal about the same stretch as one of an earlier cut, if there still is one. */
  same({ kind, found }: Pick<SeenProposal, 'kind' | 'found'>): SeenProposal | undefined {
    const [first, last] = this.near({ start: found.start - 1, end: found.end + 1 });
    for (let k = first; k < last; k++) {
      const seen = this.at(k);
      const shared = Math.min(seen.found.end, found.end) - Math.max(seen.found.start, found.start);
      if (seen.kind === kind && shared >= (found.end - found.start) / 2) return seen;
    }
    return undefined;
  }
}

const LOOK_BACK = 8;

function piecesIn(packed: Float64Array): Piece[] {
  const pieces: Piece[] = [];
  for (let k = 0; k < packed.length; k += PIECE_FIELDS) {
    const [start, end, rate] = [packed[k] as number, packed[k + 1] as number, packed[k + 2] as number];
    const manner = MANNERS[packed[k + 3] as number] ?? 'plain';
    if (manner === 'plain') pieces.push({ start, end, rate });
    else if (manner === 'hole') pieces.push({ start, end, rate, hole: true });
    else pieces.push({ start, end, rate, sound: manner });
  }
  return pieces;
}
