import { rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import type { MediaFacts } from '@/core/contract/media.ts';
import { type CurveKind, encodeHeader } from '@/core/curves/codec.ts';
import { EMBEDDING_RATE, EMBEDDING_SIZE, normaliseEmbedding } from '@/core/curves/embedding.ts';
import { hesitationCurve, packHesitation } from '@/core/curves/hesitation.ts';
import { LEVEL_RATE, type LevelCurve } from '@/core/curves/level.ts';
import { curveFileOf } from '@/core/curves/measures.ts';
import { findEchoes } from '@/core/curves/passageMatching.ts';
import { packEchoes } from '@/core/curves/repeatedPassages.ts';
import { SPEECH_RATE, type SpeechCurve } from '@/core/curves/speech.ts';
import { FITTED } from '@/core/detect/calibration/fitted.ts';
import { prepare, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { silencesOf } from '@/core/detect/sound/pauses.ts';
import { type Range, subtract } from '@/core/time/range.ts';
import { isCurve } from './curveFile.ts';
import { measureEmbedding, readEmbedding } from './embedding/measure.ts';
import { readMeasure } from './material.ts';
import type { MeasureOptions } from './measure.ts';

/** Silences of this length part one stretch of speech from the next. */
const SILENCE = 0.2;
const LEAST_STRETCH = 0.1;
/** Mean probability of speech from which on a stretch is one. */
const LEAST_SPEECH = 0.3;
/** The search takes about this share of the time, measuring the embedding the rest. */
const SEARCH_SHARE = 0.1;

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
  const levels = await readMeasure('levels', folder, tracks);
  const speech = await readMeasure('speech', folder, tracks).catch(() => undefined);
  const duration = Math.max(0, ...levels.map(({ codes }) => codes.length / LEVEL_RATE));
  const silences = silencesOf(preparedPauses(prepare({ duration, levels, speech, words: [] })), DEFAULT_SETTINGS, SILENCE);
  const stretches = subtract([{ start: 0, end: duration }], silences).filter(
    (stretch) => stretch.end - stretch.start >= LEAST_STRETCH && isSpeech(stretch, speech),
  );
  const spoken = loudestTracks(levels, stretches);
  const embedding = (await readEmbedding(folder, tracks)).map((curve, track) =>
    normaliseEmbedding(curve, (frame) => spoken[frame] === track),
  );
  for (const [track, values] of embedding.entries())
    await writeCurve(
      join(folder, curveFileOf('hesitation', track)),
      'hesitation',
      packHesitation(hesitationCurve(values, FITTED.hesitation)),
    );
  const search = findEchoes(ofLoudest(embedding, spoken), stretches);
  const found = [];
  for (let step = search.next(); !step.done; step = search.next()) {
    if (options.signal?.aborted) throw new DOMException('listening was cancelled', 'AbortError');
    found.push(...step.value.echoes);
    options.onProgress?.(length * (1 - SEARCH_SHARE + SEARCH_SHARE * step.value.share));
    await breathe();
  }
  await writeCurve(target, 'echoes', packEchoes(found));
}

/** Whether somebody is heard in a stretch: what no voice says is no line, however often it comes. */
function isSpeech({ start, end }: Range, speech: readonly SpeechCurve[] | undefined): boolean {
  if (!speech) return true;
  return speech.some(({ codes }) => {
    const heard = codes.subarray(Math.floor(start * SPEECH_RATE), Math.ceil(end * SPEECH_RATE));
    return heard.reduce((sum, code) => sum + code, 0) >= LEAST_SPEECH * 255 * heard.length;
  });
}

/** Bytes that are no samples of a steady rate. */
async function writeCurve(target: string, kind: CurveKind, bytes: Uint8Array): Promise<void> {
  const header = encodeHeader({ kind, bytesPerSample: 1, rateNum: 1000, rateDen: 1, count: bytes.length });
  await writeFile(`${target}.part`, Buffer.concat([header, bytes]), { flush: true });
  await rename(`${target}.part`, target);
}

/** For each frame of embedding the track that is the loudest around it, or none where nobody speaks. */
function loudestTracks(levels: readonly LevelCurve[], stretches: readonly Range[]): Uint8Array {
  const frames = Math.ceil(Math.max(0, ...levels.map(({ codes }) => codes.length)) / (LEVEL_RATE / EMBEDDING_RATE)) + 1;
  const loudest = new Uint8Array(frames).fill(NOBODY);
  for (const { start, end } of stretches) {
    const until = Math.min(frames, Math.round(end * EMBEDDING_RATE));
    for (let frame = Math.round(start * EMBEDDING_RATE); frame < until; frame++) {
      let most = -1;
      for (const [track, { codes }] of levels.entries()) {
        const level = meanAround(codes, frame / EMBEDDING_RATE);
        if (level > most) [most, loudest[frame]] = [level, track];
      }
    }
  }
  return loudest;
}

const NOBODY = 255;
const REACH = 0.2;

function meanAround(codes: Uint8Array, at: number): number {
  const from = Math.max(0, Math.round((at - REACH) * LEVEL_RATE));
  const until = Math.min(codes.length, Math.round((at + REACH) * LEVEL_RATE));
  let sum = 0;
  for (let k = from; k < until; k++) sum += codes[k] as number;
  return sum / Math.max(1, until - from);
}

/** Frame by frame the embedding of the loudest track. */
function ofLoudest(embedding: readonly Float32Array[], loudest: Uint8Array): Float32Array {
  const [first = new Float32Array(0), ...more] = embedding;
  const chosen = first.slice();
  for (const [k, values] of more.entries())
    for (let frame = 0; frame < loudest.length; frame++)
      if (loudest[frame] === k + 1)
        chosen.set(values.subarray(frame * EMBEDDING_SIZE, (frame + 1) * EMBEDDING_SIZE), frame * EMBEDDING_SIZE);
  return chosen;
}
