import { expose, transfer } from 'comlink';
import { type Cut, computeCut } from '@/core/assemble/cutlist.ts';
import { withVerdicts } from '@/core/assemble/keptTakes.ts';
import { type PackedCut, packCut } from '@/core/assemble/packing.ts';
import { seamCount } from '@/core/assemble/programme.ts';
import { measureSeam, riskiestSeams, type SeamMeasure, type SeamRisk } from '@/core/assemble/risk.ts';
import { bestJoin, type Join } from '@/core/assemble/splice.ts';
import { decodeCurve } from '@/core/curves/codec.ts';
import { unpackEchoes } from '@/core/curves/echoes.ts';
import { unpackHeld } from '@/core/curves/voice.ts';
import type { DecisionState } from '@/core/decisions/replay.ts';
import { type LevelHistogram, levelHistogram } from '@/core/detect/overview.ts';
import { thresholdRange } from '@/core/detect/pauses.ts';
import { reasonsFor } from '@/core/detect/reasons.ts';
import { type Pace, type PreparedMaterial, prepare, preparedPauses, preparedTakes, reworded } from '@/core/detect/registry.ts';
import { type Rhythm, rhythmOf } from '@/core/detect/rhythm.ts';
import type { Settings } from '@/core/detect/settings.ts';
import { sayingsLike } from '@/core/detect/takes/like.ts';
import { type TakeGroup, takeGroups } from '@/core/detect/takes/takes.ts';
import type { Range } from '@/core/time/range.ts';
import { fromColumns, type TranscriptColumns } from '@/core/transcript/columns.ts';

let prepared: PreparedMaterial | undefined;
let last: Cut | undefined;
let state: DecisionState | undefined;

/** What a worker detects in; curves as the files that were fetched. */
export interface LoadedMaterial {
  readonly duration: number;
  /** one a track */
  readonly levels: readonly Uint8Array[];
  /** one a track, or none while it is not measured */
  readonly speech: readonly Uint8Array[] | undefined;
  readonly motion: Uint8Array | undefined;
  readonly voice: readonly Uint8Array[] | undefined;
  readonly echoes: Uint8Array | undefined;
  readonly words: TranscriptColumns | null;
}

const curve = (file: Uint8Array) => ({ codes: decodeCurve(file).samples });

/** The cut, computed off the main thread. */
const worker = {
  load({ duration, levels, speech, motion, voice, echoes, words }: LoadedMaterial): void {
    const transcript = words ? fromColumns(words) : undefined;
    prepared = prepare({
      duration,
      levels: levels.map(curve),
      speech: speech?.map(curve),
      motion: motion && curve(motion),
      voice: voice?.map((file) => unpackHeld(decodeCurve(file).samples)),
      echoes: echoes && unpackEchoes(decodeCurve(echoes).samples),
      words: transcript?.words ?? [],
      language: transcript?.language,
    });
  },

  compute(now: DecisionState, pace: Pace): PackedCut | undefined {
    if (!prepared) return undefined;
    state = now;
    last = computeCut(prepared, now, pace);
    const packed = packCut(prepared.material.duration, last);
    return transfer(packed, [packed.proposals.buffer, packed.pieces.buffer]);
  },

  /** A cut to compare with: the last answer stays what it was. */
  aside(state: DecisionState): PackedCut | undefined {
    return prepared && packCut(prepared.material.duration, computeCut(prepared, state));
  },

  /** Length and seams of the programme under other settings. */
  outcome(state: DecisionState): { length: number; seams: number } | undefined {
    if (!prepared) return undefined;
    const { programme } = computeCut(prepared, state);
    return { length: programme.length, seams: seamCount(programme) };
  },

  /** The numbers that led to a proposal of the last answer. */
  evidence(index: number): Readonly<Record<string, number>> | undefined {
    return last?.proposals[index]?.evidence;
  },

  /** Why a proposal of the last answer is one, in words. */
  reasons(index: number): string[] {
    const proposal = last?.proposals[index];
    return proposal ? reasonsFor(proposal) : [];
  },

  /** The seams of the last answer that are most likely to be wrong. */
  riskiest(count: number): SeamRisk[] {
    return prepared && last ? riskiestSeams(preparedPauses(prepared), last.proposals, count, prepared.material) : [];
  },

  /** How the two sides of a seam of the last answer differ. */
  seam(index: number): SeamMeasure | undefined {
    const proposal = last?.proposals[index];
    return prepared && proposal && measureSeam(preparedPauses(prepared), proposal, prepared.material);
  },

  /** Groups of attempts at one line under the last answer. */
  takes(): TakeGroup[] {
    if (!prepared || !state || !last) return [];
    return withVerdicts(takeGroups(preparedTakes(reworded(prepared, state.text)), state.settings, state), last.proposals);
  },

  /** Where to leave one attempt for a later one near a word. */
  join(left: Range, right: Range, word: number): Join | undefined {
    if (!prepared || !state) return undefined;
    return bestJoin(preparedPauses(prepared), prepared.material, reworded(prepared, state.text).spoken, left, right, word);
  },

  /** What is said like a stretch, and the stretch itself. */
  like(shown: Range): Range[] {
    return prepared && state ? sayingsLike(reworded(prepared, state.text).spoken, prepared.material, shown) : [];
  },

  rhythm(settings: Settings): Rhythm | undefined {
    return prepared && rhythmOf(preparedPauses(prepared), settings);
  },

  histogram(settings: Settings): LevelHistogram | undefined {
    return prepared && levelHistogram(preparedPauses(prepared), settings);
  },

  /** Lowest and highest level that counts as sound under the automatic threshold, in dBFS. */
  autoThreshold(): [number, number] | undefined {
    return prepared ? thresholdRange(preparedPauses(prepared)) : undefined;
  },
};

export type CutWorker = typeof worker;
expose(worker);
