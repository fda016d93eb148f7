import { readFile, rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import type { MediaFacts } from '@/core/contract/media.ts';
import { CEPSTRUM_HOP, CEPSTRUM_SAMPLE_RATE, CepstrumMeter } from '@/core/curves/cepstra.ts';
import { encodeHeader } from '@/core/curves/codec.ts';
import { ECHO_BYTES, packEchoes } from '@/core/curves/echoes.ts';
import { LEVEL_RATE, type LevelCurve } from '@/core/curves/level.ts';
import { findEchoes } from '@/core/curves/listening.ts';
import { silencesOf } from '@/core/detect/pauses.ts';
import { prepare, preparedPauses } from '@/core/detect/registry.ts';
import { DEFAULT_SETTINGS } from '@/core/detect/settings.ts';
import { type Range, subtract } from '@/core/time/range.ts';
import { mixed, samplesOf } from './decoding.ts';
import type { MeasureOptions } from './measure.ts';

export const echoesFile = 'echoes.ztcv';

/** Silences of this length part one stretch of speech from the next. */
const SILENCE = 0.2;
const LEAST_STRETCH = 0.1;
/** Listening again takes about this share of the time, decoding and measuring the rest. */
const DECODING_SHARE = 0.6;

/**
 * Finds stretches of a recording that sound like earlier ones, all tracks mixed, into the folder of its other curves.
 * @throws MediaError when the sound cannot be decoded
 */
export async function measureEchoes(
  path: string,
  facts: MediaFacts,
  levels: readonly LevelCurve[],
  folder: string,
  options: MeasureOptions = {},
): Promise<void> {
  const target = join(folder, echoesFile);
  if (await readFile(target).catch(() => undefined)) return;
  const stretches = stretchesOf(levels);
  const cepstra = await cepstraOf(path, facts, stretches, options);
  const length = stretches.at(-1)?.end ?? 0;
  const search = findEchoes(cepstra, stretches);
  const found = [];
  for (let step = search.next(); !step.done; step = search.next()) {
    if (options.signal?.aborted) throw new DOMException('listening was cancelled', 'AbortError');
    found.push(...step.value.echoes);
    options.onProgress?.(length * (DECODING_SHARE + (1 - DECODING_SHARE) * step.value.share));
    await breathe();
  }
  const header = encodeHeader({ kind: 'echoes', bytesPerSample: ECHO_BYTES, rateNum: 1000, rateDen: 1, count: found.length });
  await writeFile(`${target}.part`, Buffer.concat([header, packEchoes(found)]), { flush: true });
  await rename(`${target}.part`, target);
}

function stretchesOf(levels: readonly LevelCurve[]): Range[] {
  const duration = Math.max(0, ...levels.map(({ codes }) => codes.length / LEVEL_RATE));
  const silences = silencesOf(preparedPauses(prepare({ duration, levels, words: [] })), DEFAULT_SETTINGS, SILENCE);
  return subtract([{ start: 0, end: duration }], silences).filter(({ start, end }) => end - start >= LEAST_STRETCH);
}

async function cepstraOf(path: string, facts: MediaFacts, stretches: readonly Range[], options: MeasureOptions) {
  const meter = new CepstrumMeter();
  let samples = 0;
  for await (const part of samplesOf(mixed(path, facts, options.signal))) {
    meter.push(part);
    samples += part.length;
    options.onProgress?.((DECODING_SHARE * samples) / CEPSTRUM_SAMPLE_RATE);
    await breathe();
  }
  const spoken = new Uint8Array(Math.ceil((stretches.at(-1)?.end ?? 0) / CEPSTRUM_HOP) + 1);
  for (const { start, end } of stretches) spoken.fill(1, Math.round(start / CEPSTRUM_HOP), Math.round(end / CEPSTRUM_HOP));
  return meter.end((frame) => spoken[frame] === 1);
}
