import { rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import type { MediaFacts } from '@/core/contract/media.ts';
import { encodeHeader } from '@/core/curves/codec.ts';
import { curveFileOf } from '@/core/curves/measures.ts';
import { HoldingMeter, VOICE_HOP_SAMPLES, VOICE_SAMPLE_RATE } from '@/core/curves/sustainedSounds.ts';
import { HELD_BYTES, packHeld } from '@/core/curves/voice.ts';
import { isCurve } from './curveFile.ts';
import { decoded, samplesOf } from './decoding.ts';
import type { MeasureOptions } from './measure.ts';

const FRAME = 1024;
/** Half a frame of silence before the first sample, so that frames are centred on their moments. */
const LEAD = FRAME / 2;
const FRAMES_A_BREATH = 200;

/**
 * Measures pitch and held sounds of all tracks into the folder of their other curves.
 * @throws MediaError when the sound cannot be decoded
 */
export async function measureVoice(path: string, facts: MediaFacts, folder: string, options: MeasureOptions = {}): Promise<void> {
  for (const [track, { index }] of facts.audio.entries()) {
    const target = join(folder, curveFileOf('voice', track));
    if (await isCurve(target)) continue;
    const meter = new HoldingMeter();
    let frame = new Float64Array(FRAME);
    let filled = LEAD;
    let frames = 0;
    for await (const part of samplesOf(decoded(path, index, facts.duration, options.signal))) {
      for (const sample of part) {
        frame[filled++] = sample;
        if (filled < FRAME) continue;
        meter.push(frame);
        const next = new Float64Array(FRAME);
        next.set(frame.subarray(VOICE_HOP_SAMPLES));
        frame = next;
        filled = FRAME - VOICE_HOP_SAMPLES;
        if (++frames % FRAMES_A_BREATH === 0) await breathe();
      }
      const seconds = (frames * VOICE_HOP_SAMPLES) / VOICE_SAMPLE_RATE;
      options.onProgress?.((track * facts.duration + seconds) / facts.audio.length);
    }
    const sounds = meter.end();
    const header = encodeHeader({ kind: 'voice', bytesPerSample: HELD_BYTES, rateNum: 1000, rateDen: 1, count: sounds.length });
    await writeFile(`${target}.part`, Buffer.concat([header, packHeld(sounds)]), { flush: true });
    await rename(`${target}.part`, target);
  }
}
