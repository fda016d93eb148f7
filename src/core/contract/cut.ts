import * as z from 'zod/mini';
import type { PackedCut } from '../assemble/packing.ts';
import { column } from './column.ts';

const numbers = column((item): item is number => Number.isFinite(item), 'numbers');

/**
 * The cut of an episode as the server last computed it, in the columns of `PackedCut`, and what it was computed from: it counts
 * for who knows of no later decision and no other measures.
 */
export const knownCut = z.object({
  seq: z.int(),
  wordsVersion: z.int(),
  speech: z.boolean(),
  motion: z.boolean(),
  voice: z.boolean(),
  echoes: z.boolean(),
  duration: z.number(),
  proposals: numbers,
  pieces: numbers,
  groups: z.array(z.string()),
  unmatched: z.int(),
});
export type KnownCut = z.infer<typeof knownCut>;

/** Tenths of milliseconds are finer than what anybody sees; further digits would be a third of what travels. */
const shortened = (columns: Float64Array): number[] => Array.from(columns, (value) => Math.round(value * 1e4) / 1e4);

export const sentCut = ({ proposals, pieces, ...rest }: PackedCut) => ({
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
