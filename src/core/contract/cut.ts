import * as z from 'zod/mini';
import type { PackedCut } from '../assemble/packing.ts';
import { column } from './column.ts';

const numbers = column((item): item is number => Number.isFinite(item), 'numbers');

/** All that may change of what the cut of an episode is computed from: the last decision, the words, and what is measured. */
export interface CutBasis {
  readonly seq: number;
  readonly wordsVersion: number;
  readonly speech: boolean;
  readonly motion: boolean;
  readonly voice: boolean;
  readonly echoes: boolean;
}

/** The same text for the same basis. */
export const basisKey = ({ seq, wordsVersion, speech, motion, voice, echoes }: CutBasis): string =>
  [seq, wordsVersion, speech, motion, voice, echoes].join(' ');

/** The cut of an episode as it was last computed, in the columns of `PackedCut`: it counts for whoever knows the same basis. */
export const knownCut = z.object({
  basis: z.string(),
  duration: z.number(),
  proposals: numbers,
  pieces: numbers,
  groups: z.array(z.string()),
  unmatched: z.int(),
});
export type KnownCut = z.infer<typeof knownCut>;

/** Tenths of milliseconds are finer than what anybody sees; further digits would be a third of what travels. */
const shortened = (columns: Float64Array): number[] => Array.from(columns, (value) => Math.round(value * 1e4) / 1e4);

export const sentCut = (basis: CutBasis, { proposals, pieces, ...rest }: PackedCut): KnownCut => ({
  basis: basisKey(basis),
  ...rest,
  groups: [...rest.groups],
  proposals: shortened(proposals),
  pieces: shortened(pieces),
});

export const receivedCut = ({ duration, proposals, pieces, groups, unmatched }: KnownCut): PackedCut => ({
  duration,
  proposals: Float64Array.from(proposals),
  pieces: Float64Array.from(pieces),
  groups,
  unmatched,
});
