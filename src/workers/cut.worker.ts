import { expose, transfer } from 'comlink';
import { type Cut, computeCut } from '@/core/assemble/cutlist.ts';
import { withVerdicts } from '@/core/assemble/keptTakes.ts';
import { buffersOf, type PackedCut, packCut } from '@/core/assemble/packing.ts';
import { seamCount } from '@/core/assemble/programme.ts';
import { measureSeam, riskiestSeams, type SeamMeasure, type SeamRisk } from '@/core/assemble/risk.ts';
import { bestJoin, type Join } from '@/core/assemble/splice.ts';
import { fromColumns, type TranscriptColumns } from '@/core/contract/wordColumns.ts';
import { wordsAnswer } from '@/core/contract/words.ts';
import { decodeMeasure, MEASURE_NAMES, type Measured, type MeasureName } from '@/core/curves/measures.ts';
import type { AboutStep, DecisionState } from '@/core/decisions/replay.ts';
import type { Material, Proposal } from '@/core/detect/detector.ts';
import { type Pace, type PreparedMaterial, prepare, preparedPauses, preparedTakes, reworded } from '@/core/detect/registry.ts';
import type { Settings } from '@/core/detect/settings.ts';
import { type LevelHistogram, levelHistogram } from '@/core/detect/sound/levelOverview.ts';
import { thresholdRange } from '@/core/detect/sound/pauses.ts';
import { type Rhythm, rhythmOf } from '@/core/detect/sound/rhythm.ts';
import { sayingsLike } from '@/core/detect/takes/like.ts';
import { type TakeGroup, takeGroups } from '@/core/detect/takes/takes.ts';
import { loadSpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import type { Range } from '@/core/time/range.ts';

let prepared: PreparedMaterial | undefined;
let last: Cut | undefined;
let state: DecisionState | undefined;

/** Where the inputs to detection are. A worker fetches them by itself, so that none of it passes through the page. */
export interface MaterialAddresses {
  readonly duration: number;
  /** of each measure that is there, one a track or one */
  readonly measures: Readonly<Partial<Record<MeasureName, readonly string[]>>>;
  readonly words: string | undefined;
}

/** Settles when what was last loaded is there, or cannot be had. */
let loading: Promise<unknown> = Promise.resolve();

async function materialAt({ duration, measures, words }: MaterialAddresses): Promise<Material> {
  const [measured, text] = await Promise.all([
    Promise.all(
      MEASURE_NAMES.map(async (name) => {
        const addresses = measures[name];
        return addresses ? [[name, decodeMeasure(name, await Promise.all(addresses.map(bytesAt)))] as const] : [];
      }),
    ),
    words && wordsAt(words),
  ]);
  const transcript = text ? fromColumns(text) : undefined;
  return {
    duration,
    levels: [],
    ...(Object.fromEntries(measured.flat()) as Measured),
    words: transcript?.words ?? [],
    language: transcript?.language,
  };
}

const bytesAt = async (address: string): Promise<Uint8Array> => new Uint8Array(await (await fetched(address)).arrayBuffer());

const wordsAt = async (address: string): Promise<TranscriptColumns | null> =>
  wordsAnswer.parse(await (await fetched(address)).json()).words;

async function fetched(address: string): Promise<Response> {
  const answer = await fetch(address).catch(() => undefined);
  if (!answer?.ok) throw new Error('What was measured could not be fetched.');
  return answer;
}

/** What the page named this thread after is on its way before anybody asks: that is half of what opening waits for. */
let ahead = self.name === '' ? undefined : { of: self.name, coming: prepareAt(JSON.parse(self.name)) };
ahead?.coming.catch(() => undefined);

async function prepareAt(addresses: MaterialAddresses): Promise<PreparedMaterial> {
  const ready = prepare(await materialAt(addresses));
  preparedPauses(ready);
  return ready;
}

/** Asked for by name, since a question may come after an answer that the page has not seen yet. */
const proposalOf = (id: string): Proposal | undefined => last?.proposals.find((proposal) => proposal.id === id);

/** The cut, computed off the main thread. */
const worker = {
  /** @returns lowest and highest level that counts as sound under the automatic threshold, in dBFS, and how many words there are */
  async load(addresses: MaterialAddresses): Promise<{ threshold: [number, number]; words: number }> {
    const coming = ahead?.of === JSON.stringify(addresses) ? ahead.coming : prepareAt(addresses);
    // Kept on, it would hold three hours of curves after others have come.
    ahead = undefined;
    loading = coming.catch(() => undefined);
    const ready = await coming;
    prepared = ready;
    return { threshold: thresholdRange(preparedPauses(ready)), words: ready.material.words.length };
  },

  async compute(now: DecisionState, pace: Pace): Promise<PackedCut | undefined> {
    await loading;
    if (pace !== 'glance') await loadSpeechParts();
    if (!prepared) return undefined;
    state = now;
    last = computeCut(prepared, now, pace);
    const packed = packCut(prepared.material.duration, last);
    return transfer(packed, buffersOf(packed));
  },

  /** A cut to compare with: the last answer stays what it was. */
  async aside(state: DecisionState): Promise<PackedCut | undefined> {
    await loadSpeechParts();
    return prepared && packCut(prepared.material.duration, computeCut(prepared, state));
  },

  /** Length and seams of the programme under other settings. */
  async outcome(state: DecisionState): Promise<{ length: number; seams: number } | undefined> {
    await loadSpeechParts();
    if (!prepared) return undefined;
    const { programme } = computeCut(prepared, state);
    return { length: programme.length, seams: seamCount(programme) };
  },

  /** The numbers that led to a proposal, if it is among those of the last answer. */
  evidence(id: string): Readonly<Record<string, number>> | undefined {
    return proposalOf(id)?.evidence;
  },

  /** Decisions that met no proposal of the last answer. */
  unmet(): readonly AboutStep[] {
    return last?.unmatched ?? [];
  },

  /** The seams of the last answer that are most likely to be wrong, by the proposals that made them. */
  riskiest(count: number): (Pick<Proposal, 'kind' | 'found'> & Pick<SeamRisk, 'doubt'>)[] {
    if (!prepared || !last) return [];
    const { proposals } = last;
    return riskiestSeams(preparedPauses(prepared), proposals, count, prepared.material).flatMap(({ index, doubt }) => {
      const proposal = proposals[index];
      return proposal ? [{ kind: proposal.kind, found: proposal.found, doubt }] : [];
    });
  },

  /** How the two sides of a seam differ, if its proposal is among those of the last answer. */
  seam(id: string): SeamMeasure | undefined {
    const proposal = proposalOf(id);
    return prepared && proposal && measureSeam(preparedPauses(prepared), proposal, prepared.material);
  },

  /** Groups of attempts at one line under the last answer. */
  async takes(): Promise<TakeGroup[]> {
    await loadSpeechParts();
    if (!prepared || !state || !last) return [];
    return withVerdicts(takeGroups(preparedTakes(reworded(prepared, state.text)), state.settings, state), last.proposals);
  },

  /** Where to leave one attempt for a later one near a word. */
  join(left: Range, right: Range, word: number): Join | undefined {
    if (!prepared || !state) return undefined;
    return bestJoin(preparedPauses(prepared), prepared.material, reworded(prepared, state.text).spoken(), left, right, word);
  },

  /** What is said like a stretch, and the stretch itself. */
  like(shown: Range): Range[] {
    return prepared && state ? sayingsLike(reworded(prepared, state.text).spoken(), prepared.material, shown) : [];
  },

  rhythm(settings: Settings): Rhythm | undefined {
    return prepared && rhythmOf(preparedPauses(prepared), settings);
  },

  histogram(settings: Settings): LevelHistogram | undefined {
    return prepared && levelHistogram(preparedPauses(prepared), settings);
  },
};

export type CutWorker = typeof worker;
expose(worker);
