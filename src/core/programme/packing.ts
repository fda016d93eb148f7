import type { Verdict } from '../decisions/event.ts';
import { KIND_NAMES, type ProposalKind } from '../detect/kinds.ts';
import type { HurrySound, Treatment } from '../detect/settings.ts';
import type { RoomTone } from '../detect/sound/roomTone.ts';
import { firstAfter, type Range, type Seconds } from '../time/range.ts';
import type { Cut } from './cutlist.ts';
import { type Piece, type Programme, programmeOf } from './programme.ts';

/**
 * A cut in flat arrays, the form in which it leaves the worker and the server: thousands of proposals cross over at each step of a
 * slider. Copying objects would take longer than computing them, and wider numbers would be swept up as often as ten steps.
 */
export interface PackedCut {
  readonly duration: Seconds;
  /** start, end, start and end of what was found, in ticks: four numbers a proposal */
  readonly ranges: Ticks;
  /** confidence in ten-thousandths, kind, verdict, whether decided, treatment, group or `NO_GROUP`: six numbers a proposal */
  readonly marks: Uint16Array;
  /** start and end of each piece, in ticks */
  readonly pieces: Ticks;
  /** pieces that are not played as they are: index, rate, manner */
  readonly treated: readonly number[];
  /** names of groups, which proposals refer to by their place here */
  readonly groups: readonly string[];
  /** decisions that meet no proposal now */
  readonly unmatched: number;
  /** the quiet rooms of the recordings, where they are heard */
  readonly tones?: readonly RoomTone[] | undefined;
}

/** Tenths of milliseconds: finer than what anybody sees or hears. */
const TICKS_PER_SECOND = 10_000;
/** Two and a half days fit into 32 bits; what is longer takes the room it needs. */
export type Ticks = Int32Array | Float64Array;
export const ticksFor = (duration: Seconds, count: number): Ticks =>
  duration * TICKS_PER_SECOND < 2 ** 31 ? new Int32Array(count) : new Float64Array(count);
const CONFIDENCE_STEPS = 10_000;
const NO_GROUP = 0xffff;
const RANGE_FIELDS = 4;
const MARK_FIELDS = 6;
const PIECE_FIELDS = 2;
const TREATED_FIELDS = 3;
const TREATMENTS: readonly Treatment[] = ['remove', 'shorten', 'hurry', 'hole'];
/** how a piece is played: empty, or with one of the sounds of a hurried part */
const MANNERS: readonly (HurrySound | 'hole')[] = ['hole', 'mute', 'along', 'pitch'];
const VERDICTS: readonly Verdict[] = ['out', 'stay', 'open'];

export function packCut(duration: Seconds, { proposals, programme, unmatched, tones }: Cut): PackedCut {
  const ranges = ticksFor(duration, proposals.length * RANGE_FIELDS);
  const marks = new Uint16Array(proposals.length * MARK_FIELDS);
  const groups = new Map<string, number>();
  let at = 0;
  let mark = 0;
  for (const { start, end, found, confidence, kind, verdict, decided, treatment, group } of proposals) {
    ranges[at++] = ticks(start);
    ranges[at++] = ticks(end);
    ranges[at++] = ticks(found.start);
    ranges[at++] = ticks(found.end);
    marks[mark++] = Math.round(confidence * CONFIDENCE_STEPS);
    marks[mark++] = KIND_NAMES.indexOf(kind);
    marks[mark++] = VERDICTS.indexOf(verdict);
    marks[mark++] = decided ? 1 : 0;
    marks[mark++] = TREATMENTS.indexOf(treatment);
    marks[mark++] = group === undefined ? NO_GROUP : groupIndex(groups, group);
  }
  const pieces = ticksFor(duration, programme.pieces.length * PIECE_FIELDS);
  const treated: number[] = [];
  let next = 0;
  for (const { start, end, rate, hole, sound } of programme.pieces) {
    const manner = hole ? 'hole' : sound;
    if (manner) treated.push(next / PIECE_FIELDS, rate, MANNERS.indexOf(manner));
    pieces[next++] = ticks(start);
    pieces[next++] = ticks(end);
  }
  return { duration, ranges, marks, pieces, treated, groups: [...groups.keys()], unmatched: unmatched.length, tones };
}

/** What may be handed to another thread instead of being copied. */
export const buffersOf = ({ ranges, marks, pieces }: PackedCut): ArrayBufferLike[] => [
  ranges.buffer,
  marks.buffer,
  pieces.buffer,
];

const ticks = (at: Seconds): number => Math.round(at * TICKS_PER_SECOND);

function groupIndex(groups: Map<string, number>, name: string): number {
  const known = groups.get(name);
  if (known !== undefined) return known;
  if (groups.size === NO_GROUP) return NO_GROUP;
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
    const { marks, pieces, treated } = packed;
    this.count = marks.length / MARK_FIELDS;
    this.seams = Math.max(0, pieces.length / PIECE_FIELDS - 1);
    const lengthOf = (piece: number) => (pieces[piece * PIECE_FIELDS + 1] as number) - (pieces[piece * PIECE_FIELDS] as number);
    let length = 0;
    for (let k = 0; k < pieces.length / PIECE_FIELDS; k++) length += lengthOf(k);
    for (let k = 0; k < treated.length; k += TREATED_FIELDS) {
      const own = lengthOf(treated[k] as number);
      length += own / (treated[k + 1] as number) - own;
    }
    this.length = length / TICKS_PER_SECOND;
    let open = 0;
    for (let k = 0; k < this.count; k++) if (this.verdict(k) === 'open') open++;
    this.open = open;
  }

  get programme(): Programme {
    this.built ??= programmeOf(piecesIn(this.packed));
    return this.built;
  }

  start = (k: number): Seconds => (this.packed.ranges[k * RANGE_FIELDS] as number) / TICKS_PER_SECOND;
  end = (k: number): Seconds => (this.packed.ranges[k * RANGE_FIELDS + 1] as number) / TICKS_PER_SECOND;
  kind = (k: number): ProposalKind => KIND_NAMES[this.packed.marks[k * MARK_FIELDS + 1] as number] as ProposalKind;
  verdict = (k: number): Verdict => VERDICTS[this.packed.marks[k * MARK_FIELDS + 2] as number] as Verdict;

  at(index: number): SeenProposal {
    const { ranges, marks, groups } = this.packed;
    const k = index * RANGE_FIELDS;
    const mark = index * MARK_FIELDS;
    return {
      index,
      start: this.start(index),
      end: this.end(index),
      found: {
        start: (ranges[k + 2] as number) / TICKS_PER_SECOND,
        end: (ranges[k + 3] as number) / TICKS_PER_SECOND,
      },
      confidence: (marks[mark] as number) / CONFIDENCE_STEPS,
      kind: this.kind(index),
      verdict: this.verdict(index),
      decided: marks[mark + 3] === 1,
      treatment: TREATMENTS[marks[mark + 4] as number] as Treatment,
      group: groups[marks[mark + 5] as number],
    };
  }

  /** Silences that were found, whatever becomes of them. */
  silences(): Range[] {
    const pauses = Array.from({ length: this.count }, (_, k) => k).filter((k) => this.kind(k) === 'pause');
    return pauses.map((k) => this.at(k).found);
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

function piecesIn({ pieces, treated }: PackedCut): Piece[] {
  const list: Piece[] = [];
  let next = 0;
  for (let k = 0; k < pieces.length; k += PIECE_FIELDS) {
    const start = (pieces[k] as number) / TICKS_PER_SECOND;
    const end = (pieces[k + 1] as number) / TICKS_PER_SECOND;
    const isPlain = treated[next] !== list.length;
    const [rate, manner] = isPlain ? [1, undefined] : [treated[next + 1] as number, MANNERS[treated[next + 2] as number]];
    if (!isPlain) next += TREATED_FIELDS;
    if (!manner) list.push({ start, end, rate });
    else if (manner === 'hole') list.push({ start, end, rate, hole: true });
    else list.push({ start, end, rate, sound: manner });
  }
  return list;
}
