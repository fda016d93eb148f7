import { stat } from 'node:fs/promises';
import { join } from 'node:path';
import {
  acrossFile,
  curveFileOf,
  filesOf,
  MEASURE_JOB_NAMES,
  MEASURE_NAMES,
  MEASURES,
  type MeasureJob,
} from '@/core/curves/measures.ts';
import { PEAK_LAYERS } from '@/core/curves/peaks.ts';
import { isCurve } from './curveFile.ts';
import { peaksFile } from './measure.ts';
import { isMeasured, type Medium } from './media.ts';
import { curvesFolder, proxyPath } from './store.ts';

/** Jobs that have measured a medium, as far as the database knows, but whose files are missing or cannot be read. */
export async function lostJobs(medium: Medium): Promise<MeasureJob[]> {
  const done = MEASURE_JOB_NAMES.filter((job) => isMeasured(medium, job));
  const isThere = await Promise.all(done.map((job) => areCurves(curvesFolder(medium.id), filesFrom(job, medium))));
  return done.filter((_, k) => !isThere[k]);
}

/** Media that one was compared with, as far as the database knows, but where what was found is missing or cannot be read. */
export async function lostComparisons({ id, comparedWith }: Medium): Promise<string[]> {
  const isThere = await Promise.all(comparedWith.map((from) => isCurve(join(curvesFolder(id), `${acrossFile(from)}.ztcv`))));
  return comparedWith.filter((_, k) => !isThere[k]);
}

/** Whether the picture that was made for browsers is missing. */
export const isProxyLost = async (medium: Medium): Promise<boolean> =>
  medium.proxy === 'ready' && !(await stat(proxyPath(medium.id)).catch(() => undefined));

/** Names of the files that a job makes. */
export function filesFrom(job: MeasureJob, { facts }: Medium): string[] {
  const tracks = facts.audio.map((_, track) => track);
  const ofDetection = MEASURE_NAMES.filter((name) => MEASURES[name].job === job).flatMap((name) =>
    filesOf(name, tracks.length).map((_, track) => curveFileOf(name, track)),
  );
  const layers = Array.from({ length: PEAK_LAYERS }, (_, layer) => layer);
  const toSee = job === 'measure' ? tracks.flatMap((track) => layers.map((layer) => peaksFile(track, layer))) : [];
  return [...ofDetection, ...toSee];
}

const areCurves = async (folder: string, files: readonly string[]): Promise<boolean> =>
  (await Promise.all(files.map((file) => isCurve(join(folder, file))))).every(Boolean);
