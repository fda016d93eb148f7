import { appendFile, readFile, stat } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import * as ort from 'onnxruntime-web';
import type { MediaFacts } from '@/core/contract/media.ts';
import { curveFileOf } from '@/core/curves/measures.ts';
import { probabilityToCode, SPEECH_FRAME, SPEECH_SAMPLE_RATE } from '@/core/curves/speech.ts';
import { completeCurve, isCurve } from './curveFile.ts';
import { decoded } from './decoding.ts';
import type { MeasureOptions } from './measure.ts';

/** The model cannot run on this machine; detection goes by level alone then. */
export class SpeechUnavailable extends Error {}

/** The model sees the end of the frame before along with each frame. */
const CONTEXT = 64;
const STATE = 128;
/**
 * The model remembers: started in the middle of a file it takes about fifty seconds until its answers are those it
 * would have given anyway. Each stretch is warmed up on as much of what comes before it.
 */
const WARM_UP_FRAMES = Math.round((60 * SPEECH_SAMPLE_RATE) / SPEECH_FRAME);
/** Eight stretches at a time: more do not run faster. */
const MOST_STRETCHES = 8;
const STRETCH_FRAMES = Math.round((240 * SPEECH_SAMPLE_RATE) / SPEECH_FRAME);
/** In a short file stretches are shorter, down to this, or warming them up would take most of the time. */
const LEAST_STRETCH_FRAMES = WARM_UP_FRAMES;
/** Between so many steps other work of the process gets its turn. */
const STEPS_A_BREATH = 8;

interface SpeechOptions extends MeasureOptions {
  /** how many stretches are measured side by side, and how long each is; by the length of the file when left out */
  readonly stretches?: { readonly count: number; readonly frames: number };
}

let session: Promise<ort.InferenceSession> | undefined;

/** The model, loaded once. @throws SpeechUnavailable */
function loadModel(): Promise<ort.InferenceSession> {
  session ??= (async () => {
    try {
      ort.env.wasm.numThreads = 1;
      ort.env.logLevel = 'error';
      const path =
        process.env.ZETEMIS_SPEECH_MODEL ??
        join(createRequire(import.meta.url).resolve('@ricky0123/vad-web'), '..', 'silero_vad_v5.onnx');
      return await ort.InferenceSession.create(await readFile(path), { executionProviders: ['wasm'] });
    } catch (error) {
      session = undefined;
      throw new SpeechUnavailable(
        `The speech model cannot run on this machine (${(error as Error).message.split('\n')[0]}). Pauses are found by level alone.`,
      );
    }
  })();
  return session;
}

/**
 * Measures the probability of speech of all tracks, track by track, into the folder that holds their other curves.
 * What was finished before an interruption is not measured again: finished stretches wait in a `.part` file.
 * @throws SpeechUnavailable when the model cannot run, MediaError when the sound cannot be decoded
 */
export async function measureSpeech(path: string, facts: MediaFacts, folder: string, options: SpeechOptions = {}): Promise<void> {
  for (const [track, heard] of facts.audio.entries()) {
    const target = join(folder, curveFileOf('speech', track));
    if (await isCurve(target)) continue;
    const model = await loadModel();
    const samples = decoded(path, heard, facts.duration, options.signal);
    const share = (frames: number) =>
      options.onProgress?.((track * facts.duration + (frames * SPEECH_FRAME) / SPEECH_SAMPLE_RATE) / facts.audio.length);
    const stretches = options.stretches ?? stretchesFor(facts.duration);
    await measureTrack(model, samples, stretches, `${target}.part`, share, options.signal);
    await completeCurve(`${target}.part`, target, {
      kind: 'speech',
      bytesPerSample: 1,
      rateNum: SPEECH_SAMPLE_RATE,
      rateDen: SPEECH_FRAME,
    });
  }
}

/** How many stretches are measured side by side, and how long each is, for a file of some length. */
function stretchesFor(seconds: number): { count: number; frames: number } {
  const frames = Math.ceil((seconds * SPEECH_SAMPLE_RATE) / SPEECH_FRAME);
  const count = Math.max(1, Math.min(MOST_STRETCHES, Math.floor(frames / LEAST_STRETCH_FRAMES)));
  return { count, frames: Math.min(STRETCH_FRAMES, Math.max(LEAST_STRETCH_FRAMES, Math.ceil(frames / count))) };
}

/** Collects sound until there is enough for all stretches, measures them side by side, and goes on with the next. */
async function measureTrack(
  model: ort.InferenceSession,
  chunks: AsyncIterable<Buffer>,
  { count, frames }: { readonly count: number; readonly frames: number },
  part: string,
  tell: (frames: number) => void,
  signal: AbortSignal | undefined,
): Promise<void> {
  const before = (WARM_UP_FRAMES + 1) * SPEECH_FRAME;
  const window = new Int16Array(before + count * frames * SPEECH_FRAME);
  await appendFile(part, '');
  let done = (await stat(part)).size;
  let held = 0;
  /** file position of the window's first sample: what comes before the first stretch warms it up */
  let origin = Math.max(0, done * SPEECH_FRAME - before);
  let position = 0;
  let odd: Buffer | undefined;
  const measureWindow = async () => {
    const fresh = Math.ceil((origin + held) / SPEECH_FRAME) - done;
    if (fresh <= 0) return;
    const each = Math.ceil(fresh / count);
    const codes = await runStretches(
      model,
      window.subarray(0, held),
      origin,
      done,
      fresh,
      each,
      (steps) => tell(done + steps),
      signal,
    );
    await appendFile(part, codes);
    done += fresh;
    tell(done);
    const keep = Math.min(held, origin + held - Math.max(0, done * SPEECH_FRAME - before));
    window.copyWithin(0, held - keep, held);
    origin += held - keep;
    held = keep;
  };
  for await (const chunk of chunks) {
    let bytes = odd ? Buffer.concat([odd, chunk]) : chunk;
    odd = bytes.length % 2 === 1 ? bytes.subarray(bytes.length - 1) : undefined;
    if (bytes.byteOffset % 2 === 1) bytes = Buffer.from(bytes);
    let samples = new Int16Array(bytes.buffer, bytes.byteOffset, bytes.length >> 1);
    const skipped = Math.max(0, Math.min(samples.length, origin - position));
    position += samples.length;
    samples = samples.subarray(skipped);
    while (samples.length > 0) {
      const room = Math.min(samples.length, (done + count * frames) * SPEECH_FRAME - origin - held);
      window.set(samples.subarray(0, room), held);
      held += room;
      samples = samples.subarray(room);
      if (origin + held === (done + count * frames) * SPEECH_FRAME) await measureWindow();
    }
  }
  await measureWindow();
}

/**
 * Probability codes of frames `[first, first + count)`, as stretches of `each` frames side by side, each warmed up on
 * what comes before it.
 * @param window samples from file position `origin` on
 */
async function runStretches(
  model: ort.InferenceSession,
  window: Int16Array,
  origin: number,
  first: number,
  count: number,
  each: number,
  tell: (frames: number) => void,
  signal: AbortSignal | undefined,
): Promise<Uint8Array> {
  const rows = Math.ceil(count / each);
  const width = CONTEXT + SPEECH_FRAME;
  const codes = new Uint8Array(count);
  const rate = new ort.Tensor('int64', BigInt64Array.from([BigInt(SPEECH_SAMPLE_RATE)]), []);
  let state = new Float32Array(2 * rows * STATE);
  for (let step = -WARM_UP_FRAMES; step < each; step++) {
    const input = new Float32Array(rows * width);
    for (let row = 0; row < rows; row++) {
      const frame = first + row * each + step;
      // Before the file begins the model knows nothing yet.
      if (frame < 0) forget(state, rows, row);
      const at = frame * SPEECH_FRAME - CONTEXT - origin;
      for (let k = Math.max(0, -at); k < width && at + k < window.length; k++)
        input[row * width + k] = (window[at + k] as number) / 32768;
    }
    const answer = await model.run({
      input: new ort.Tensor('float32', input, [rows, width]),
      state: new ort.Tensor('float32', state, [2, rows, STATE]),
      sr: rate,
    });
    state = answer.stateN?.data as Float32Array<ArrayBuffer>;
    const heard = answer.output?.data as Float32Array;
    for (let row = 0; step >= 0 && row < rows && row * each + step < count; row++)
      codes[row * each + step] = probabilityToCode(heard[row] as number);
    if (step % STEPS_A_BREATH === 0) {
      if (signal?.aborted) throw new DOMException('measuring was cancelled', 'AbortError');
      tell((count * (step + WARM_UP_FRAMES)) / (each + WARM_UP_FRAMES));
      await breathe();
    }
  }
  return codes;
}

function forget(state: Float32Array, rows: number, row: number): void {
  for (const layer of [0, 1]) state.fill(0, (layer * rows + row) * STATE, (layer * rows + row + 1) * STATE);
}
