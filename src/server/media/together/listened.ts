import type { MediaFacts } from '@/core/contract/media.ts';
import { CLOSE_RATE, type Listened } from '@/core/sync/align.ts';
import { OnsetMeter } from '@/core/sync/onsets.ts';
import type { Seconds } from '@/core/time/range.ts';
import { rawSound, samplesOf } from '../decoding.ts';
import type { MeasureOptions } from '../measure.ts';
import { mixOf } from '../sound.ts';

/**
 * A file as it is listened to for where it lies against another: all its tracks together. It is read once for its onsets; what is compared
 * closely is read from where it lies.
 * @throws MediaError when it cannot be decoded
 */
export async function listenedTo(
  path: string,
  facts: MediaFacts,
  { onProgress, signal }: MeasureOptions = {},
): Promise<Listened> {
  const mixed = ['-filter_complex', mixOf(facts), '-map', '[mix]', '-ac', '1', '-ar', String(CLOSE_RATE), '-f', 's16le'];
  const meter = new OnsetMeter(CLOSE_RATE);
  let count = 0;
  for await (const samples of samplesOf(rawSound(path, mixed, facts.duration, signal))) {
    meter.push(samples);
    count += samples.length;
    onProgress?.(count / CLOSE_RATE);
  }
  return {
    duration: count / CLOSE_RATE,
    onsets: meter.onsets(),
    async samples(from: Seconds, length: Seconds) {
      const out = new Float32Array(Math.round(length * CLOSE_RATE));
      // What lies before the file is silence.
      let at = Math.round((Math.max(0, from) - from) * CLOSE_RATE);
      for await (const samples of samplesOf(rawSound(path, mixed, facts.duration, signal, { from: Math.max(0, from), length }))) {
        out.set(samples.subarray(0, Math.max(0, out.length - at)), Math.min(at, out.length));
        at += samples.length;
      }
      return out;
    },
  };
}
