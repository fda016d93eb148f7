import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { EMBEDDING_SIZE } from '@/core/curves/embedding.ts';
import { type HesitationModel, hesitationCurve } from '@/core/curves/hesitation.ts';
import type { Calibration, Judged } from '@/core/detect/calibration/calibration.ts';
import { FITTED } from '@/core/detect/calibration/fitted.ts';
import { fitIsotonic, valueOn } from '@/core/detect/calibration/isotonic.ts';
import { type Evidence, fitLogistic, type LogisticModel, probabilityOf } from '@/core/detect/calibration/logistic.ts';
import { type Reliability, reliabilityOf, type Told } from '@/core/detect/calibration/reliability.ts';
import { earInDoubt } from '@/core/detect/takes/sameLine.ts';
import { drawReliability } from './diagram.ts';
import {
  type LabelledExample,
  type LabelledFrames,
  labelledExamples,
  labelledFrames,
  recordingsIn,
  sentenceExamples,
} from './examples.ts';
import { EAR_RIDGE, HESITATION_RIDGE, HESITATION_STRIDE, MODELS, RIDGES } from './models.ts';
import { FILLER_SENTENCES, REPEAT_SENTENCES } from './sentences.ts';

/** A folder of recordings, and how much each of its examples counts. */
export interface FitSource {
  readonly folder: string;
  readonly count: number;
}

export interface FitOptions {
  /** folder of the project that the numbers are written into */
  readonly project?: string | undefined;
  /** where all examples are written */
  readonly examplesFile?: string | undefined;
  /** examples that were written before, to be fitted again */
  readonly reuse?: string | undefined;
  /** the models that are fitted; the others stay as they are. All when left out */
  readonly only?: readonly Judged[] | undefined;
}

export interface FitReport {
  readonly judged: Judged;
  readonly ridge: number;
  readonly examples: number;
  readonly all: Reliability;
  /** the same by kind of transcript */
  readonly byTranscript: Readonly<Record<string, Reliability>>;
  /** of those told at least 0.97: how many, and which share was right */
  readonly sure: { readonly count: number; readonly right: number };
}

const SURE = 0.97;
const FOLDS = 5;
const FITTED_FILE = 'src/core/detect/calibration/fitted.ts';
const REPORT_FILE = 'docs/reliability/reliability.json';
const DIAGRAM_FILE = 'docs/reliability/reliability.png';
const rounded = (_: string, value: unknown) => (typeof value === 'number' ? Math.round(value * 1e4) / 1e4 : value);

/**
 * Fits the calibration to recordings with truth, and tells how far it can be relied on with each recording told by a model that
 * was fitted to all the others. Writes both into the project when `project` is given.
 */
export async function fitCalibration(
  sources: readonly FitSource[],
  keep: string,
  { project, examplesFile, reuse, only }: FitOptions = {},
): Promise<FitReport[]> {
  const { examples: found, hesitation } = reuse === undefined ? await gathered(sources, keep) : await gatheredBefore(reuse);
  if (examplesFile !== undefined) await writeFile(examplesFile, JSON.stringify(found));
  const examples = heardByOthers(found);
  const all = Object.keys(MODELS) as Judged[];
  const judgeds = only === undefined ? all : all.filter((judged) => only.includes(judged));
  const reports: FitReport[] = [];
  const models: [Judged, LogisticModel][] = [];
  for (const judged of judgeds) {
    const mine = learntBy(judged, examples);
    const tries = RIDGES.map((ridge) => toldByOthers(judged, mine, ridge));
    const best = tries.reduce((least, one) => (one.loss < least.loss ? one : least));
    models.push([judged, { ...fitLogistic(mine, MODELS[judged].names, best.ridge), comesTrue: fitIsotonic(best.told) }]);
    reports.push(reportOf(judged, { ...best, told: trueByOthers(best.told).filter(({ own }) => own) }));
  }
  if (project !== undefined) {
    const calibration: Calibration = { ...FITTED, ...Object.fromEntries(models) };
    await writeFile(join(project, FITTED_FILE), fittedText(calibration, hesitation, examples, judgeds));
    const before = JSON.parse(await readFile(join(project, REPORT_FILE), 'utf8').catch(() => '[]')) as FitReport[];
    const told = all.flatMap((judged) => [...reports, ...before].find((report) => report.judged === judged) ?? []);
    await writeFile(join(project, REPORT_FILE), `${JSON.stringify(told, rounded)}\n`);
    await writeFile(join(project, DIAGRAM_FILE), drawReliability(told));
  }
  return reports;
}

interface Gathered {
  readonly examples: readonly LabelledExample[];
  readonly hesitation: HesitationModel;
}

async function gathered(sources: readonly FitSource[], keep: string): Promise<Gathered> {
  const recordings = (
    await Promise.all(
      sources.map(async ({ folder, count }) => (await recordingsIn(folder)).map((recording) => ({ ...recording, count }))),
    )
  ).flat();
  const frames: LabelledFrames[] = [];
  for (const recording of recordings) frames.push(await labelledFrames(recording, keep));
  const hesitation = fitHesitation(frames);
  // What a recording sounds like is told by a model of the other folds: it would know its own hesitations too well.
  const folds = Array.from({ length: FOLDS }, (_, fold) => fitHesitation(frames.filter((_, k) => k % FOLDS !== fold)));
  const examples: LabelledExample[] = sentenceExamples([...FILLER_SENTENCES, ...REPEAT_SENTENCES]);
  for (const [k, recording] of recordings.entries()) {
    const curve = hesitationCurve((frames[k] as LabelledFrames).embedding, folds[k % FOLDS] as HesitationModel);
    const found = await labelledExamples(recording, curve, keep);
    examples.push(...found.map((example) => ({ ...example, count: recording.count * (example.count ?? 1) })));
  }
  return { examples, hesitation };
}

/** Examples as they were written to a file, with the judgement of frames as it stands. */
async function gatheredBefore(file: string): Promise<Gathered> {
  return { examples: JSON.parse(await readFile(file, 'utf8')) as LabelledExample[], hesitation: FITTED.hesitation };
}

/** The examples that a model learns from; what is far apart never goes by itself, whatever its probability. */
function learntBy(judged: Judged, examples: readonly LabelledExample[]): LabelledExample[] {
  const { judges, learnsFrom = judged } = MODELS[judged];
  const counts = (evidence: Evidence) => !judges || learnsFrom !== judged || judges(evidence);
  return examples.filter((example) => example.judged === learnsFrom && !example.evidence.far && counts(example.evidence));
}

/** What the ear adds to words is told by a model of the other folds: it would know the takes of its own recordings too well. */
function heardByOthers(examples: readonly LabelledExample[]): LabelledExample[] {
  const foldOf = new Map([...new Set(examples.map(({ recording }) => recording))].map((recording, k) => [recording, k % FOLDS]));
  const bySound = learntBy('takesBySound', examples);
  const models = Array.from({ length: FOLDS }, (_, fold) =>
    fitLogistic(
      bySound.filter(({ recording }) => foldOf.get(recording) !== fold),
      MODELS.takesBySound.names,
      EAR_RIDGE,
    ),
  );
  return examples.map((example) => {
    if (example.judged !== 'takesByWords') return example;
    const model = models[foldOf.get(example.recording) as number] as LogisticModel;
    return { ...example, evidence: { ...example.evidence, ...earInDoubt(example.evidence, model) } };
  });
}

type ToldExample = Told & {
  readonly transcript: string;
  readonly recording: string;
  readonly count: number;
  /** whether it is the model's to judge */
  readonly own: boolean;
};

/** A ridge makes probabilities timid: what comes true shows in recordings that were told by the others; here by the others again. */
function trueByOthers(told: readonly ToldExample[]): ToldExample[] {
  return [...new Set(told.map((one) => one.recording))].flatMap((recording) => {
    const curve = fitIsotonic(told.filter((one) => one.recording !== recording));
    return told
      .filter((one) => one.recording === recording)
      .map((one) => ({ ...one, probability: valueOn(curve, one.probability) }));
  });
}

/** Examples of each recording told by what was learned from the others, with their mean loss (negative log-likelihood). */
function toldByOthers(judged: Judged, examples: readonly LabelledExample[], ridge: number) {
  const { names, judges = () => true } = MODELS[judged];
  const told: ToldExample[] = [];
  let [loss, counts] = [0, 0];
  for (const recording of new Set(examples.map((example) => example.recording))) {
    const others = examples.filter((example) => example.recording !== recording);
    const model = fitLogistic(others, names, ridge);
    for (const example of examples) {
      if (example.recording !== recording) continue;
      const { evidence, right, transcript, count = 1 } = example;
      const probability = probabilityOf(model, evidence);
      told.push({ probability, right, transcript, recording, count, own: judges(evidence) });
      loss -= count * Math.log(right ? probability : 1 - probability);
      counts += count;
    }
  }
  return { ridge, told, loss: loss / Math.max(1, counts) };
}

function reportOf(judged: Judged, { told, ridge }: { readonly told: readonly ToldExample[]; readonly ridge: number }): FitReport {
  const sure = told.filter(({ probability }) => probability >= SURE);
  const transcripts = [...new Set(told.map(({ transcript }) => transcript))].sort();
  return {
    judged,
    ridge,
    examples: told.length,
    all: reliabilityOf(told),
    byTranscript: Object.fromEntries(
      transcripts.map((transcript) => [transcript, reliabilityOf(told.filter((one) => one.transcript === transcript))]),
    ),
    sure: { count: sure.length, right: sure.filter(({ right }) => right).length / Math.max(1, sure.length) },
  };
}

function fitHesitation(recordings: readonly LabelledFrames[]): HesitationModel {
  const names = Array.from({ length: EMBEDDING_SIZE }, (_, k) => String(k));
  const examples = recordings.flatMap(({ embedding, frames }) =>
    frames
      .filter(({ right }, k) => right || k % HESITATION_STRIDE === 0)
      .map(({ at, right }) => ({
        right,
        count: right ? 1 : HESITATION_STRIDE,
        evidence: Object.fromEntries(names.map((name, k) => [name, embedding[at * EMBEDDING_SIZE + k] as number])),
      })),
  );
  const { intercept, weights } = fitLogistic(examples, names, HESITATION_RIDGE);
  return { intercept, weights: names.map((name) => weights[name] as number) };
}

function fittedText(
  calibration: Calibration,
  hesitation: HesitationModel,
  examples: readonly LabelledExample[],
  judgeds: readonly Judged[],
): string {
  const recordings = new Set(examples.map(({ recording }) => recording)).size;
  const which = judgeds.length === Object.keys(MODELS).length ? 'all' : judgeds.join(', ');
  return `import type { HesitationModel } from '../../curves/hesitation.ts';
import type { Calibration } from './calibration.ts';

/**
 * Written by \`npm run fit\` on ${new Date().toISOString().slice(0, 10)} (${which}) from ${examples.length} examples of ${recordings} recordings; not to be changed by hand.
 * How far it can be relied on is in docs/reliability, with each recording told by a model fitted to the others.
 */
// biome-ignore format: numbers that a script writes
export const FITTED: Calibration & { readonly hesitation: HesitationModel } = ${JSON.stringify({ ...calibration, hesitation })};
`;
}
