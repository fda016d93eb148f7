import type { MediaFacts } from '@/core/contract/media.ts';
import { TIMBRE_RATE, type Timbre, TimbreMeter } from '@/core/speakers/timbre.ts';
import { decoded, samplesOf } from './decoding.ts';
import type { MeasureOptions } from './measure.ts';

/**
 * How the first track of a recording sounds, frame by frame.
 * @throws MediaError when it cannot be decoded, AbortError when it was cancelled
 */
export async function measureTimbre(
  path: string,
  { audio, duration }: MediaFacts,
  options: MeasureOptions = {},
): Promise<Timbre> {
  const meter = new TimbreMeter();
  for await (const samples of samplesOf(decoded(path, audio[0]?.index ?? 0, duration, options.signal))) {
    meter.push(samples);
    options.onProgress?.(meter.frames / TIMBRE_RATE);
  }
  return meter.timbre;
}
