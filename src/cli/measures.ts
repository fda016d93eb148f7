import { createHash } from 'node:crypto';
import { mkdir, mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import type { MediaFacts } from '@/core/contract/media.ts';
import { decodeCurve } from '@/core/curves/codec.ts';
import { LEVEL_RATE } from '@/core/curves/level.ts';
import { curveFileOf } from '@/core/curves/measures.ts';
import type { Seconds } from '@/core/time/range.ts';
import { measure } from '@/server/media/measure.ts';

/** Curves of one recording. */
export interface Measures {
  readonly folder: string;
  readonly duration: Seconds;
}

/**
 * Measures level and peaks of a recording, and hands on the folder with its curves. Without `keep` the folder goes when
 * the work is done; with it, what was measured of this very file (same path, size and time of change) is used again.
 */
export async function withMeasures<T>(
  media: string,
  facts: MediaFacts,
  keep: string | undefined,
  work: (measures: Measures) => Promise<T>,
): Promise<T> {
  const folder = keep === undefined ? await mkdtemp(join(tmpdir(), 'zetemis-')) : join(keep, await nameOf(media));
  try {
    await mkdir(folder, { recursive: true });
    const curves = join(folder, 'curves');
    const measured = await measuredBefore(curves, facts).catch(() => measure(media, facts, curves));
    return await work({ folder: curves, duration: facts.duration || measured });
  } finally {
    if (keep === undefined) await rm(folder, { recursive: true, force: true });
  }
}

async function nameOf(media: string): Promise<string> {
  const { size, mtimeMs } = await stat(media);
  return createHash('sha256')
    .update(`${resolve(media)} ${size} ${mtimeMs}`)
    .digest('hex')
    .slice(0, 24);
}

/** Length of the longest track, from its level curve; throws where there is none. */
async function measuredBefore(folder: string, { audio }: MediaFacts): Promise<Seconds> {
  const lengths = await Promise.all(
    audio.map(
      async (_, track) => decodeCurve(await readFile(join(folder, curveFileOf('levels', track)))).samples.length / LEVEL_RATE,
    ),
  );
  return Math.max(...lengths);
}
