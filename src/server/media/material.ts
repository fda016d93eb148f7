import { readFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { MediaFacts } from '@/core/contract/media.ts';
import {
  decodeMeasure,
  filesOf,
  MEASURE_NAMES,
  MEASURES,
  type Measured,
  type MeasureJob,
  type MeasureName,
  type MeasureOf,
} from '@/core/curves/measures.ts';
import type { HandoffMedia } from '@/core/programme/handoff.ts';

/** A measure of all tracks from the folder of their curves. Rejects when it was not made, or cannot be read. */
export async function readMeasure<N extends MeasureName>(name: N, folder: string, tracks = 1): Promise<MeasureOf<N>> {
  return decodeMeasure(name, await Promise.all(filesOf(name, tracks).map((file) => readFile(join(folder, `${file}.ztcv`)))));
}

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

/** What hand-off formats say of a media file. */
export function handoffMedia(name: string, facts: MediaFacts, duration: number): HandoffMedia {
  return {
    name: basename(name),
    duration,
    frameRate: facts.video?.rate,
    tracks: facts.audio.length,
    hasVideo: facts.video !== undefined,
    timecode: facts.timecode,
    variable: facts.video?.variable ?? false,
  };
}
