import * as z from 'zod/mini';
import { MEASURE_JOB_NAMES, type MeasureJob } from '../curves/measures.ts';
import { type PackedCut, ticksFor } from '../programme/packing.ts';
import { column } from './column.ts';

const numbers = column((item): item is number => Number.isFinite(item), 'numbers');

/** Whether what jobs measure of a recording is there. */
interface MeasuredRecording extends Readonly<Record<Exclude<MeasureJob, 'measure'>, boolean>> {
  readonly id: string;
  readonly measured: boolean;
  /** recordings that it was compared with */
  readonly across: readonly string[];
}

/** All that may change of what the cut of an episode is computed from: the last decision, the words, and what is measured. */
export interface CutBasis {
  readonly seq: number;
  readonly wordsVersion: number;
  readonly recordings: readonly MeasuredRecording[];
}

/** The same text for the same basis. */
export const basisKey = ({ seq, wordsVersion, recordings }: CutBasis): string =>
  [seq, wordsVersion, ...recordings.filter(({ measured }) => measured).map(measuresKey)].join(' ');

const measuresKey = (recording: MeasuredRecording): string =>
  [recording.id, ...MEASURE_JOB_NAMES.filter((job) => job === 'measure' || recording[job]), ...recording.across].join('+');

const range = z.object({ start: z.number(), end: z.number() });

/** The cut of an episode as it was last computed, in the columns of `PackedCut`: it counts for whoever knows the same basis. */
export const knownCut = z.object({
  basis: z.string(),
  duration: z.number(),
  ranges: numbers,
  marks: numbers,
  pieces: numbers,
  treated: numbers,
  groups: z.array(z.string()),
  unmatched: z.int(),
  tones: z.optional(z.array(z.object({ of: range, tone: range }))),
});
export type KnownCut = z.infer<typeof knownCut>;

export const sentCut = (basis: CutBasis, { ranges, marks, pieces, treated, groups, tones, ...rest }: PackedCut): KnownCut => ({
  basis: basisKey(basis),
  ...rest,
  ...(tones && { tones: [...tones] }),
  ranges: [...ranges],
  marks: [...marks],
  pieces: [...pieces],
  treated: [...treated],
  groups: [...groups],
});

export function receivedCut({ basis: _, ranges, marks, pieces, ...rest }: KnownCut): PackedCut {
  const ticks = (sent: readonly number[]) => {
    const held = ticksFor(rest.duration, sent.length);
    held.set(sent);
    return held;
  };
  return { ...rest, ranges: ticks(ranges), marks: Uint16Array.from(marks), pieces: ticks(pieces) };
}
