import { readFile, writeFile } from 'node:fs/promises';
import { Command } from 'commander';
import { materialOf } from '@/cli/material.ts';
import { withMeasures } from '@/cli/measures.ts';
import { applyDecisions } from '@/core/decisions/matching.ts';
import { NO_STEPS } from '@/core/decisions/replay.ts';
import { fitIsotonic, valueOn } from '@/core/detect/calibration/isotonic.ts';
import {
  type Evidence,
  type Example,
  fitLogistic,
  type LogisticModel,
  probabilityOf,
} from '@/core/detect/calibration/logistic.ts';
import type { Proposal } from '@/core/detect/detector.ts';
import { KINDS, type KindFamily } from '@/core/detect/kinds.ts';
import { detect, prepare, preparedPauses } from '@/core/detect/registry.ts';
import { certaintyOf, DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { SpeechParts } from '@/core/detect/words/partsOfSpeech.ts';
import { EDGE_EVIDENCE, edgeEvidence } from '@/core/docket/edges.ts';
import { readAny } from '@/core/interchange/transcripts/registry.ts';
import { correctionFrom } from '@/core/lessons/correction.ts';
import { classesOf, type Lesson } from '@/core/lessons/lesson.ts';
import { seamRisk } from '@/core/programme/risk.ts';
import { probe } from '@/server/media/probe.ts';
import { type FitRecording, recordingsIn } from './examples.ts';
import { labeller } from './truth.ts';

const speechParts = new SpeechParts();

/** Fits what the docket is reckoned by: `npm run fit:docket -- FOLDER…`. Folders as `npm run recordings` makes them. */

const EDGES_FILE = 'src/core/docket/fitted.ts';
const STRAYS_FILE = 'src/core/lessons/fitted.ts';
/** What is wrong with the widest of these is wrong for another reason than its edges. */
const AIRS = [0.2, 0.16, 0.1, 0.05, 0.02, 0];
const SPREADS = [0.2, 0.4, 0.6, 0.8, 1, 1.4, 2];
const RIDGE = 1;
const BINS = [0, 0.003, 0.01, 0.03, 0.1, 1].flatMap((from, k, all) =>
  k < all.length - 1 ? [[from, all[k + 1] as number] as const] : [],
);

interface EdgeExample extends Example {
  readonly recording: string;
}

/** What was told of a proposal, and whether it was right, in order of time. */
interface Told {
  readonly classes: readonly string[];
  readonly told: number;
  readonly right: boolean;
}

/** Something that goes by itself: what was told of it without its edges, what speaks for its edges, and whether it was wrong. */
interface Sure {
  readonly family: KindFamily;
  readonly told: number;
  readonly edges: Evidence | undefined;
  readonly wrong: boolean;
}

async function gather({ name, media, truth, transcripts }: FitRecording, keep: string) {
  const facts = await probe(media);
  return withMeasures(media, facts, keep, async (measures) => {
    const isRight = labeller(truth);
    const edges: EdgeExample[] = [];
    const walks: Told[][] = [];
    const sure: Sure[] = [];
    for (const [kind, path] of [['none', undefined] as const, ...transcripts]) {
      const words = path === undefined ? undefined : await readAny(await readFile(path, 'utf8'));
      const material = await materialOf(media, facts, measures, { words, speech: true, takes: 'both', heard: 'propose' });
      const prepared = prepare({ ...material, speechParts });
      const wrongAnyway = new Set<string>();
      if (kind === 'none')
        for (const air of AIRS) {
          const settings = { ...DEFAULT_SETTINGS, airBefore: air, airAfter: air, takes: 'off' as const };
          const found = detect(prepared, settings, NO_STEPS).filter((proposal) => proposal.kind === 'pause');
          for (const proposal of applyDecisions(found, { ...NO_STEPS, settings }).proposals) {
            const evidence = edgeEvidence(proposal, seamRisk(preparedPauses(prepared), proposal, material).atEnd);
            const isWrong = isRight(proposal) === false;
            if (isWrong && air === AIRS[0]) wrongAnyway.add(proposal.id);
            edges.push({ recording: name, evidence, right: isWrong && !wrongAnyway.has(proposal.id) });
          }
        }
      const found = detect(prepared, DEFAULT_SETTINGS, NO_STEPS);
      walks.push(found.flatMap((proposal: Proposal) => toldOf(proposal, isRight(proposal))));
      for (const proposal of applyDecisions(found, NO_STEPS).proposals) {
        const { kind, confidence, verdict } = proposal;
        const right = isRight(proposal);
        if (verdict !== 'out' || confidence < certaintyOf(DEFAULT_SETTINGS) || right === undefined) continue;
        const edgesOf = () => edgeEvidence(proposal, seamRisk(preparedPauses(prepared), proposal, material).atEnd);
        sure.push({ family: KINDS[kind], told: confidence, edges: kind === 'pause' ? edgesOf() : undefined, wrong: !right });
      }
    }
    return { edges, walks, sure };
  });
}

const toldOf = (proposal: Proposal, right: boolean | undefined): Told[] =>
  right === undefined ? [] : [{ classes: classesOf(proposal), told: proposal.confidence, right }];

/** Mean surprise, in nats, when each proposal is told with what was learned from those before it in the same recording. */
function surprise(walk: readonly Told[], strays: readonly number[]): number {
  const lessons: Lesson[] = [];
  let sum = 0;
  let correct = correctionFrom([]);
  for (const [k, { classes, told, right }] of walk.entries()) {
    const probability = Math.min(0.9995, Math.max(0.0005, correct(classes, told)));
    sum -= Math.log(right ? probability : 1 - probability);
    for (const about of classes) lessons.push({ about, told, right: right ? 1 : 0, wrong: right ? 0 : 1 });
    // Once in a while is enough: what is learned from one more moves little.
    if (k % 4 === 3) correct = correctionFrom(lessons, strays);
  }
  return sum;
}

/** The spreads that surprise least, one depth after another. */
function fitStrays(walks: readonly (readonly Told[])[]): { strays: number[]; plain: number; taught: number } {
  const loss = (strays: readonly number[]) => walks.reduce((sum, walk) => sum + surprise(walk, strays), 0);
  const strays = [0.6, 0.6, 0.6];
  for (let round = 0; round < 2; round++)
    for (let depth = 0; depth < strays.length; depth++) {
      const tries = SPREADS.map((spread) => ({ spread, lost: loss(strays.with(depth, spread)) }));
      strays[depth] = tries.reduce((best, one) => (one.lost < best.lost ? one : best)).spread;
    }
  return { strays, plain: loss([1e-3, 1e-3, 1e-3]), taught: loss(strays) };
}

/**
 * How much of the doubt that is told of the sure ones comes true, by family. What decides verdicts is told with half an example of either
 * kind added, so as not to be too sure; a figure that is to be believed must not add that up. One case in doubt joins either side.
 */
function comeTrue(sure: readonly Sure[], model: LogisticModel): Partial<Record<KindFamily, number>> {
  const families = [...new Set(sure.map(({ family }) => family))];
  return Object.fromEntries(
    families.map((family) => {
      const own = sure.filter((one) => one.family === family);
      const told = own.reduce((sum, one) => sum + 1 - one.told * (1 - (one.edges ? probabilityOf(model, one.edges) : 0)), 0);
      const wrong = own.filter((one) => one.wrong).length;
      return [family, Math.round((1000 * (wrong + 1)) / (told + 1)) / 1000];
    }),
  );
}

/** What each is told by a model that was fitted to the other recordings. */
function toldByOthers(edges: readonly EdgeExample[]): { probability: number; right: boolean }[] {
  const names = [...new Set(edges.map(({ recording }) => recording))];
  return [0, 1, 2, 3, 4].flatMap((fold) => {
    const isMine = ({ recording }: EdgeExample) => names.indexOf(recording) % 5 === fold;
    const others = edges.filter((edge) => !isMine(edge));
    const model = fitLogistic(others, EDGE_EVIDENCE, RIDGE);
    return edges.filter(isMine).map(({ evidence, right }) => ({ probability: probabilityOf(model, evidence), right }));
  });
}

await new Command('fit:docket')
  .argument('<folders...>')
  .option('--keep <folder>', 'where measures are kept', 'var/fit')
  .option('--write', 'write the numbers into the project')
  .action(async (folders: string[], { keep, write }: { keep: string; write?: boolean }) => {
    await speechParts.load();
    const gathered = [];
    for (const folder of folders)
      for (const recording of await recordingsIn(folder)) gathered.push(await gather(recording, keep));
    const out = (line: string) => process.stdout.write(`${line}\n`);
    const edges = gathered.flatMap((one) => one.edges);
    const heldOut = toldByOthers(edges);
    const model = { ...fitLogistic(edges, EDGE_EVIDENCE, RIDGE), comesTrue: fitIsotonic(heldOut) };
    const doubt = comeTrue(
      gathered.flatMap((one) => one.sure),
      model,
    );
    const walks = gathered.flatMap((one) => one.walks);
    const { strays, plain, taught } = fitStrays(walks);
    out(`edges: ${edges.length} cuts, ${edges.filter(({ right }) => right).length} clip a word`);
    for (const [from, to] of BINS) {
      const bin = heldOut.filter(({ probability }) => probability > from && probability <= to);
      const told = bin.reduce((sum, { probability }) => sum + valueOn(model.comesTrue, probability), 0);
      if (bin.length > 0) out(`  ${bin.length} told ${told.toFixed(1)} in all, ${bin.filter(({ right }) => right).length} clip`);
    }
    out(`of the doubt told of the sure ones comes true: ${JSON.stringify(doubt)}`);
    out(`lessons: spreads ${strays.join(', ')}; surprise ${plain.toFixed(0)} untaught, ${taught.toFixed(0)} taught`);
    if (!write) return;
    const date = new Date().toISOString().slice(0, 10);
    await writeFile(
      EDGES_FILE,
      `import type { LogisticModel } from '../detect/calibration/logistic.ts';
import type { KindFamily } from '../detect/kinds.ts';

const speechParts = new SpeechParts();

const speechParts = new SpeechParts();

/**
 * Probability that an edge of a silence that goes clips a word. Written by \`npm run fit:docket\` on ${date} from ${edges.length} cuts of
 * ${gathered.length} recordings at six lengths of air; not to be changed by hand.
 */
// biome-ignore format: numbers that a script writes
export const EDGES: LogisticModel = ${JSON.stringify(model)};

/** How much of the doubt that is told of what goes by itself comes true, by what found it. Written with it. */
// biome-ignore format: numbers that a script writes
export const DOUBT_COMES_TRUE: Readonly<Partial<Record<KindFamily, number>>> = ${JSON.stringify(doubt)};
`,
    );
    await writeFile(
      STRAYS_FILE,
      `/**
 * Spread, in log-odds, of how far a class of that depth strays from what is told of it: kind; entry or reason; place or air. Written by
 * \`npm run fit:docket\` on ${date} from ${walks.length} walks through ${gathered.length} recordings; not to be changed by hand.
 */
// biome-ignore format: numbers that a script writes
export const STRAYS: readonly number[] = ${JSON.stringify(strays)};
`,
    );
  })
  .parseAsync();
