import { rename, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import type { MediaFacts } from '@/core/contract/media.ts';
import { encodeHeader } from '@/core/curves/codec.ts';
import { curveFileOf } from '@/core/curves/measures.ts';
import { HoldingMeter } from '@/core/curves/sustainedSounds.ts';
import { HELD_BYTES, packHeld } from '@/core/curves/voice.ts';
import { VOICE_FRAME, VOICE_HOP_SAMPLES, VOICE_SAMPLE_RATE } from '@/core/curves/voiceFrames.ts';
import { type Timbre, TimbreMeter } from '@/core/speakers/timbre.ts';
import { isCurve } from './curveFile.ts';
import { decoded, samplesOf } from './decoding.ts';
import type { MeasureOptions } from './measure.ts';

/** Half a frame of silence before the first sample, so that frames are centred on their moments. */
const LEAD = VOICE_FRAME / 2;
const FRAMES_A_BREATH = 200;

/**
 * Measures pitch and held sounds of all tracks into the folder of their other curves.
 * @throws MediaError when the sound cannot be decoded
 */
export async function measureVoice(path: string, facts: MediaFacts, folder: string, options: MeasureOptions = {}): Promise<void> {
  for (const track of facts.audio.keys()) {
    const target = join(folder, curveFileOf('voice', track));
    if (await isCurve(target)) continue;
    const meter = new HoldingMeter();
    const tell = (seconds: number) => options.onProgress?.((track * facts.duration + seconds) / facts.audio.length);
    await throughFrames(path, facts, track, (frame) => meter.push(frame), { ...options, onProgress: tell });
    const sounds = meter.end();
    const header = encodeHeader({ kind: 'voice', bytesPerSample: HELD_BYTES, rateNum: 1000, rateDen: 1, count: sounds.length });
    await writeFile(`${target}.part`, Buffer.concat([header, packHeld(sounds)]), { flush: true });
    await rename(`${target}.part`, target);
  }
}

/**
 * How a track sounds, frame by frame.
 * @throws MediaError when it cannot be decoded
 */
export async function measureTimbre(path: string, facts: MediaFacts, options: MeasureOptions = {}): Promise<Timbre> {
  const meter = new TimbreMeter(facts.duration);
  await throughFrames(path, facts, 0, (frame) => meter.push(frame), options);
  return meter.timbre;
}

/** Goes through the frames of a track, which overlap. */
async function throughFrames(
  path: string,
  { audio, duration }: MediaFacts,
  track: number,
  look: (frame: Float64Array) => void,
  { signal, onProgress }: MeasureOptions,
): Promise<void> {
  const frame = new Float64Array(VOICE_FRAME);
  let filled = LEAD;
  let frames = 0;
  for await (const part of samplesOf(decoded(path, audio[track] ?? { index: 0 }, duration, signal))) {
    for (const sample of part) {
      frame[filled++] = sample;
      if (filled < VOICE_FRAME) continue;
      look(frame);
      frame.copyWithin(0, VOICE_HOP_SAMPLES);
      filled = VOICE_FRAME - VOICE_HOP_SAMPLES;
      if (++frames % FRAMES_A_BREATH === 0) await breathe();
    }
    onProgress?.((frames * VOICE_HOP_SAMPLES) / VOICE_SAMPLE_RATE);
  }
}
