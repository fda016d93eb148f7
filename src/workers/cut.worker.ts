import { expose, transfer } from 'comlink';
import { type Cut, computeCut } from '@/core/assemble/cutlist.ts';
import { type PackedCut, packCut } from '@/core/assemble/packing.ts';
import { decodeCurve } from '@/core/curves/codec.ts';
import type { DecisionState } from '@/core/decisions/replay.ts';
import { thresholdRange } from '@/core/detect/pauses.ts';
import { type PreparedMaterial, prepare } from '@/core/detect/registry.ts';
import { fromColumns, type TranscriptColumns } from '@/core/transcript/columns.ts';

let prepared: PreparedMaterial | undefined;
let last: Cut | undefined;

/** The cut, computed off the main thread. */
const worker = {
  /** @param curves level curve files as they were fetched, one a listening track */
  load(duration: number, curves: readonly Uint8Array[], columns: TranscriptColumns | null): void {
    const levels = curves.map((file) => ({ codes: decodeCurve(file).samples }));
    prepared = prepare({ duration, levels, words: columns ? fromColumns(columns).words : [] });
  },

  compute(state: DecisionState): PackedCut | undefined {
    if (!prepared) return undefined;
    last = computeCut(prepared, state);
    const packed = packCut(prepared.material.duration, last);
    return transfer(packed, [packed.proposals.buffer, packed.pieces.buffer]);
  },

  /** The numbers that led to a proposal of the last answer. */
  evidence(index: number): Readonly<Record<string, number>> | undefined {
    return last?.proposals[index]?.evidence;
  },

  /** Lowest and highest level that counts as sound under the automatic threshold, in dBFS. */
  autoThreshold(): [number, number] | undefined {
    return prepared ? thresholdRange(prepared.material.levels) : undefined;
  },
};

export type CutWorker = typeof worker;
expose(worker);
