import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import {
  acrossFile,
  decodeAcross,
  decodeMeasure,
  filesOf,
  MEASURE_NAMES,
  MEASURES,
  type Measured,
  type MeasureJob,
  type MeasureName,
  type MeasureOf,
} from '@/core/curves/measures.ts';
import type { Echo } from '@/core/curves/repeatedPassages.ts';

/** A measure of all tracks from the folder of their curves. Rejects when it was not made, or cannot be read. */
export async function readMeasure<N extends MeasureName>(name: N, folder: string, tracks = 1): Promise<MeasureOf<N>> {
  return decodeMeasure(name, await Promise.all(filesOf(name, tracks).map((file) => readFile(join(folder, `${file}.ztcv`)))));
}

/** What was found when a medium was compared with one before it. Rejects when it was not, or cannot be read. */
export const readAcross = async (folder: string, from: string): Promise<Echo[]> =>
  decodeAcross(await readFile(join(folder, `${acrossFile(from)}.ztcv`)));

/** A measure whose files cannot be made sense of. */
export class UnreadableMeasure extends Error {
  constructor(
    readonly job: MeasureJob,
    cause: unknown,
  ) {
    super(`What the job ${job} measured cannot be read: ${(cause as Error).message}`, { cause });
  }
}

/** All that the jobs named have measured. @throws UnreadableMeasure */
export async function readMeasures(isDone: (job: MeasureJob) => boolean, folder: string, tracks: number): Promise<Measured> {
  const names = MEASURE_NAMES.filter((name) => isDone(MEASURES[name].job));
  return Object.fromEntries(
    await Promise.all(
      names.map(async (name) => {
        const measure = await readMeasure(name, folder, tracks).catch((error) => {
          throw new UnreadableMeasure(MEASURES[name].job, error);
        });
        return [name, measure] as const;
      }),
    ),
  );
}
