import { appendFile, readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as breathe } from 'node:timers/promises';
import * as ort from 'onnxruntime-web';
import type { MediaFacts } from '@/core/contract/media.ts';
import { decodeCurve } from '@/core/curves/codec.ts';
import { EMBEDDING_HOP, EMBEDDING_SIZE, type EmbeddingCurve, embeddingToByte } from '@/core/curves/embedding.ts';
import { completeCurve, isCurve } from '../curveFile.ts';
import { decoded } from '../decoding.ts';
import type { MeasureOptions } from '../measure.ts';
import { CONTEXT_FRAMES, type EmbeddingModel, HOP_FRAMES, loadEmbeddingModel, MEL_BANDS } from './model.ts';

export const embeddingFileOf = (track: number): string => `embedding-${track}.ztcv`;

const MEL_HOP = 160;
const MEL_WINDOW = 512;
/** Descriptions computed at once: half a minute of sound, some 200 MB of intermediate results. */
const BATCH = 750;
/** Samples from the start of one description's sound to the start of the next one's, and samples that one is about. */
const HOP = HOP_FRAMES * MEL_HOP;
const SPAN = (CONTEXT_FRAMES - 1) * MEL_HOP + MEL_WINDOW;
/** Silence before the first sample, so that each description is centred on its moment. */
const LEAD = Math.round(SPAN / 2);

/**
 * Measures the speech embedding of all tracks into the folder of their other curves. What was finished before an
 * interruption is not measured again: it waits in a `.part` file.
 * @throws EmbeddingUnavailable when the model cannot run, MediaError when the sound cannot be decoded
 */
export async function measureEmbedding(
  path: string,
  facts: MediaFacts,
  folder: string,
  options: MeasureOptions = {},
): Promise<void> {
  const model = await loadEmbeddingModel();
  for (const [track, heard] of facts.audio.entries()) {
    const target = join(folder, embeddingFileOf(track));
    if (await isCurve(target)) continue;
    const tell = (seconds: number) => options.onProgress?.((track * facts.duration + seconds) / facts.audio.length);
    await measureTrack(model, decoded(path, heard, facts.duration, options.signal), `${target}.part`, tell);
    await completeCurve(`${target}.part`, target, { kind: 'embedding', bytesPerSample: EMBEDDING_SIZE, rateNum: 25, rateDen: 1 });
  }
}

/** The embedding of all tracks, once `measureEmbedding` has written it. */
export const readEmbedding = (folder: string, tracks: number): Promise<EmbeddingCurve[]> =>
  Promise.all(
    Array.from({ length: tracks }, async (_, track) => {
      const { samples } = decodeCurve(await readFile(join(folder, embeddingFileOf(track))));
      return { values: new Int8Array(samples.buffer, samples.byteOffset, samples.byteLength) };
    }),
  );

async function measureTrack(
  model: EmbeddingModel,
  chunks: AsyncIterable<Buffer>,
  part: string,
  tell: (seconds: number) => void,
): Promise<void> {
  await appendFile(part, '');
  let done = Math.floor((await stat(part)).size / EMBEDDING_SIZE);
  // The window holds samples from `done * HOP - LEAD` on; what lies before the file is silence.
  const window = new Float32Array((BATCH - 1) * HOP + SPAN);
  let held = Math.max(0, LEAD - done * HOP);
  let toSkip = Math.max(0, done * HOP - LEAD);
  const embedNext = async (count: number) => {
    await appendFile(part, await descriptionsOf(model, window.subarray(0, (count - 1) * HOP + SPAN)));
    done += count;
    window.copyWithin(0, count * HOP, held);
    held = Math.max(0, held - count * HOP);
    tell(done * EMBEDDING_HOP);
    await breathe();
  };
  for await (const samples of wholeSamples(chunks)) {
    for (let at = Math.min(toSkip, samples.length); at < samples.length; ) {
      const room = Math.min(samples.length - at, window.length - held);
      for (let k = 0; k < room; k++) window[held + k] = samples[at + k] as number;
      held += room;
      at += room;
      if (held === window.length) await embedNext(BATCH);
    }
    toSkip = Math.max(0, toSkip - samples.length);
  }
  // The last descriptions look beyond the end, into silence.
  const left = Math.ceil((held - LEAD) / HOP);
  if (left <= 0) return;
  window.fill(0, held);
  await embedNext(Math.min(left, BATCH));
}

/** 16-bit samples of chunks that may end in the middle of one. */
async function* wholeSamples(chunks: AsyncIterable<Buffer>): AsyncGenerator<Int16Array> {
  let rest: Buffer = Buffer.alloc(0);
  for await (const chunk of chunks) {
    const bytes = rest.length > 0 ? Buffer.concat([rest, chunk]) : chunk;
    const count = bytes.length >> 1;
    rest = bytes.subarray(2 * count);
    const aligned = new Uint8Array(2 * count);
    aligned.set(bytes.subarray(0, 2 * count));
    yield new Int16Array(aligned.buffer);
  }
}

/** @param samples 16-bit scale, `SPAN` for the first description and `HOP` for each further one */
async function descriptionsOf({ mel, embedding }: EmbeddingModel, samples: Float32Array): Promise<Uint8Array> {
  const bands = (await mel.run({ input: new ort.Tensor('float32', samples, [1, samples.length]) })).output?.data as Float32Array;
  // The scale on which the embedding network was trained.
  const scaled = Float32Array.from(bands, (value) => value / 10 + 2);
  const input = new ort.Tensor('float32', scaled, [1, scaled.length / MEL_BANDS, MEL_BANDS, 1]);
  const answer = (await embedding.run({ [embedding.inputNames[0] as string]: input })).embedding as ort.Tensor;
  const values = answer.data as Float32Array;
  const count = answer.dims[2] as number;
  const bytes = new Int8Array(count * EMBEDDING_SIZE);
  for (let frame = 0; frame < count; frame++)
    for (let k = 0; k < EMBEDDING_SIZE; k++)
      bytes[frame * EMBEDDING_SIZE + k] = embeddingToByte(values[k * count + frame] as number);
  return new Uint8Array(bytes.buffer);
}
