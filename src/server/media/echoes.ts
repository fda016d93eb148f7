import { rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import type { MediaFacts } from '@/core/contract/media.ts';
import { type CurveKind, encodeHeader } from '@/core/curves/codec.ts';
import { EMBEDDING_RATE, EMBEDDING_SIZE, frameCount, normaliseEmbedding } from '@/core/curves/embedding.ts';
import { hesitationCurve, packHesitation } from '@/core/curves/hesitation.ts';
import { acrossFile, curveFileOf } from '@/core/curves/measures.ts';
import { FURTHEST_TRY, findEchoes } from '@/core/curves/passageMatching.ts';
import { type Echo, packEchoes } from '@/core/curves/repeatedPassages.ts';
import { FITTED } from '@/core/detect/calibration/fitted.ts';
import { shiftEcho } from '@/core/sources/placedSound.ts';
import { shiftRange } from '@/core/sources/shift.ts';
import type { Range } from '@/core/time/range.ts';
import { isCurve } from './curveFile.ts';
import { measureEmbedding } from './embedding/measure.ts';
import { type Listened, listenedIn, ofLoudest } from './listened.ts';
import type { MeasureOptions } from './measure.ts';

/** The search takes about this share of the time, measuring the embedding the rest. */
const SEARCH_SHARE = 0.1;

/** A file with its curves. */
export interface MeasuredFile {
  readonly path: string;
  readonly facts: MediaFacts;
  /** where its curves are */
  readonly folder: string;
}

/**
 * Finds stretches of a recording that sound like earlier ones, on whichever track is the loudest at each moment, and how much
 * each track sounds like hesitating, into the folder of its other curves; measures the speech embedding before. Levels are there
 * already, and the probability of speech if it can be measured at all.
 * @throws EmbeddingUnavailable when the model cannot run, MediaError when the sound cannot be decoded
 */
export async function measureEchoes(
  path: string,
  facts: MediaFacts,
  folder: string,
  options: MeasureOptions = {},
): Promise<void> {
  const target = join(folder, curveFileOf('echoes'));
  const tracks = facts.audio.length;
  const files = [target, ...facts.audio.map((_, track) => join(folder, curveFileOf('hesitation', track)))];
  if ((await Promise.all(files.map(isCurve))).every(Boolean)) return;
  const length = facts.duration;
  await measureEmbedding(path, facts, folder, {
    ...options,
    onProgress: (seconds) => options.onProgress?.((1 - SEARCH_SHARE) * seconds),
  });
  const { stretches, embedding: curves, spoken } = await listenedIn(folder, tracks);
  const embedding = curves.map((curve, track) => normaliseEmbedding(curve, (frame) => spoken[frame] === track));
  for (const [track, values] of embedding.entries())
    await writeCurve(
      join(folder, curveFileOf('hesitation', track)),
      'hesitation',
      packHesitation(hesitationCurve(values, FITTED.hesitation)),
    );
  const found = await searched(findEchoes(ofLoudest(embedding, spoken), stretches), options.signal, (share) =>
    options.onProgress?.(length * (1 - SEARCH_SHARE + SEARCH_SHARE * share)),
  );
  await writeCurve(target, 'echoes', packEchoes(found));
}

interface CompareOptions {
  readonly signal?: AbortSignal;
  /** told a share of the whole */
  readonly onProgress?: (share: number) => void;
}

/**
 * Finds what the first minutes of a recording have in common with the last ones of another that comes before it, as one try may be
 * in one file and the next in another, into the folder of the later. What else is measured of both is there already.
 * @param from name of the earlier medium
 * @throws EmbeddingUnavailable when the model cannot run, MediaError when sound cannot be decoded
 */
export async function measureAcross(
  earlier: MeasuredFile,
  later: MeasuredFile,
  from: string,
  { signal, onProgress }: CompareOptions = {},
): Promise<void> {
  const target = join(later.folder, `${acrossFile(from)}.ztcv`);
  if (await isCurve(target)) return;
  const sides: Side[] = [];
  for (const [{ path, facts, folder }, end] of [
    [earlier, 'last'],
    [later, 'first'],
  ] as const) {
    // It is there, unless it was lost.
    await measureEmbedding(path, facts, folder, { ...(signal && { signal }) });
    sides.push(sideOf(await listenedIn(folder, facts.audio.length), end));
  }
  const [a, b] = sides as [Side, Side];
  const both = new Float32Array(a.embedding.length + b.embedding.length);
  both.set(a.embedding);
  both.set(b.embedding, a.embedding.length);
  const joint = a.embedding.length / EMBEDDING_SIZE / EMBEDDING_RATE;
  const stretches = [
    ...a.stretches.map((range) => shiftRange(range, -a.start)),
    ...b.stretches.map((range) => shiftRange(range, joint)),
  ];
  const found = await searched(findEchoes(both, stretches, a.stretches.length), signal, onProgress);
  await writeCurve(target, 'echoes', packEchoes(found.map((echo) => shiftEcho(echo, a.start, -joint))));
}

/** What one end of a recording brings to the comparison with another one. */
interface Side {
  /** where it begins, in seconds of the recording */
  readonly start: number;
  readonly stretches: readonly Range[];
  readonly embedding: Float32Array;
}

function sideOf({ stretches, embedding, spoken }: Listened, end: 'first' | 'last'): Side {
  const frames = Math.min(...embedding.map(frameCount));
  const reach = Math.min(frames, FURTHEST_TRY * EMBEDDING_RATE);
  const from = end === 'last' ? frames - reach : 0;
  const [start, until] = [from / EMBEDDING_RATE, (from + reach) / EMBEDDING_RATE];
  const normalised = embedding.map((curve, track) =>
    normaliseEmbedding(curve, (frame) => spoken[frame] === track, [from, from + reach]),
  );
  return {
    start,
    stretches: stretches.flatMap((range) =>
      range.start >= start && range.start < until ? [{ start: range.start, end: Math.min(range.end, until) }] : [],
    ),
    embedding: ofLoudest(normalised, spoken, from),
  };
}

/** All that a search finds. @throws DOMException when it is cancelled */
async function searched(
  search: ReturnType<typeof findEchoes>,
  signal: AbortSignal | undefined,
  onProgress?: (share: number) => void,
): Promise<Echo[]> {
  const found: Echo[] = [];
  for (let step = search.next(); !step.done; step = search.next()) {
    if (signal?.aborted) throw new DOMException('listening was cancelled', 'AbortError');
    found.push(...step.value.echoes);
    onProgress?.(step.value.share);
    await breathe();
  }
  return found;
}

/** Bytes that are no samples of a steady rate. */
async function writeCurve(target: string, kind: CurveKind, bytes: Uint8Array): Promise<void> {
  const header = encodeHeader({ kind, bytesPerSample: 1, rateNum: 1000, rateDen: 1, count: bytes.length });
  await writeFile(`${target}.part`, Buffer.concat([header, bytes]), { flush: true });
  await rename(`${target}.part`, target);
}
