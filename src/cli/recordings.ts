import { basename, dirname } from 'node:path';
import type { MediaFacts } from '@/core/contract/media.ts';
import { FURTHEST_TRY } from '@/core/curves/passageMatching.ts';
import type { Material } from '@/core/detect/detector.ts';
import type { Settings } from '@/core/detect/settings.ts';
import type { Across } from '@/core/sources/placedSound.ts';
import { nextPlace, shortlyBefore } from '@/core/sources/recording.ts';
import type { Range } from '@/core/time/range.ts';
import type { RoughTranscript } from '@/core/transcript/roughTranscript.ts';
import { type MeasuredFile, measureAcross } from '@/server/media/echoes.ts';
import { readAcross, readMeasure } from '@/server/media/material.ts';
import { measureMotion } from '@/server/media/motion.ts';
import { materialOf } from './material.ts';
import { type Measures, withMeasures } from './measures.ts';

/** A recording with all that detection looks at, in its own time. */
interface Analysed extends MeasuredFile {
  readonly name: string;
  readonly material: Material;
}

/** A recording to be analysed, and its transcript as it is written. */
export interface Input {
  readonly file: string;
  readonly facts: MediaFacts;
  readonly name: string;
  readonly words: RoughTranscript | undefined;
}

interface How {
  readonly settings: Settings;
  readonly speech: boolean;
  /** where what is measured is kept */
  readonly keep: string | undefined;
}

export interface AllAnalysed {
  readonly analysed: readonly Analysed[];
  /** where they stand on the episode clock */
  readonly places: readonly Range[];
  /** what each has in common with those before it */
  readonly across: readonly (readonly Across[])[];
}

/** Analyses recordings one after another. What is measured of each stays until all are compared with one another. */
export async function analyseAll(
  inputs: readonly Input[],
  how: How,
  done: AllAnalysed = { analysed: [], places: [], across: [] },
): Promise<AllAnalysed> {
  const [next, ...rest] = inputs;
  if (!next) return done;
  return withMeasures(next.file, next.facts, how.keep, async (measures) => {
    const one = await analyseOne(next, measures, how);
    const start = nextPlace(done.places);
    const place = { start, end: start + one.material.duration };
    const earlier = done.analysed.map((before, k) => ({ id: String(k), ...before, ...(done.places[k] as Range) }));
    const across = await acrossTo(one, shortlyBefore(earlier, place, FURTHEST_TRY), how.settings.takes);
    return analyseAll(rest, how, {
      analysed: [...done.analysed, one],
      places: [...done.places, place],
      across: [...done.across, across],
    });
  });
}

async function analyseOne(
  { file, facts, name, words }: Input,
  measures: Measures,
  { settings: { takes, heard, moving }, speech }: How,
): Promise<Analysed> {
  const { folder } = measures;
  const material = await materialOf(file, facts, measures, { words, speech, takes, heard });
  const one = { path: file, facts, folder, name, material };
  if (!facts.video || moving === 'same') return one;
  await measureMotion(file, facts, folder);
  return { ...one, material: { ...material, motion: await readMeasure('motion', folder) } };
}

/** What a recording has in common with earlier ones, by ear. */
async function acrossTo(
  later: Analysed,
  before: readonly (Analysed & { readonly id: string })[],
  takes: Settings['takes'],
): Promise<Across[]> {
  const found: Across[] = [];
  if (!later.material.echoes || takes === 'off' || takes === 'words') return found;
  for (const earlier of before) {
    if (!earlier.material.echoes) continue;
    const from = basename(dirname(earlier.folder));
    await measureAcross(earlier, later, from);
    found.push({ from: earlier.id, echoes: await readAcross(later.folder, from) });
  }
  return found;
}
