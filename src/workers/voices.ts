import { readFile } from 'node:fs/promises';
import { text } from 'node:stream/consumers';
import * as ort from 'onnxruntime-web';
import sherpa from 'sherpa-onnx-node';
import addon from 'sherpa-onnx-node/addon.js';
import { z } from 'zod';

/**
 * The process in which networks tell speakers apart. Native code ends its process where a network is none, and can be stopped by nothing else.
 * A question comes in, and lines of JSON go out: how far it is, then who speaks when, or, where there is one network alone, whether it works.
 */
const question = z.object({
  wav: z.string(),
  segmentation: z.string().optional(),
  embedding: z.string().optional(),
  /** how many people there are, where it is known */
  count: z.number().optional(),
});

/** How far apart voices are that are two people's, as the engine measures it, and what is too short to be a turn or a pause. */
const CLUSTERS_APART = 0.5;
const LEAST_TURN = 0.2;
const LEAST_PAUSE = 0.3;

const { wav, segmentation, embedding, count } = question.parse(JSON.parse(await text(process.stdin)));
const wave = sherpa.readWave(wav, false);
const say = (answer: unknown) => process.stdout.write(`${JSON.stringify(answer)}\n`);

if (segmentation && embedding) {
  const engine = new sherpa.OfflineSpeakerDiarization({
    segmentation: { pyannote: { model: segmentation }, numThreads: 1 },
    embedding: { model: embedding, numThreads: 1 },
    clustering: { numClusters: count ?? -1, threshold: CLUSTERS_APART },
    minDurationOn: LEAST_TURN,
    minDurationOff: LEAST_PAUSE,
  });
  let told = 0;
  const tell = (done: number, all: number) => {
    const percent = Math.floor((100 * done) / all);
    if (percent > told) say({ share: percent / 100 });
    told = Math.max(told, percent);
    return 0;
  };
  // The package's own class has no form of this that tells how far it is.
  say({ turns: await addon.offlineSpeakerDiarizationProcessAsync(engine.handle, wave.samples, tell) });
} else if (embedding) {
  const extractor = new sherpa.SpeakerEmbeddingExtractor({ model: embedding, numThreads: 1 });
  const stream = extractor.createStream();
  stream.acceptWaveform(wave);
  say({ works: extractor.compute(stream).length > 0 });
} else if (segmentation) {
  const session = await ort.InferenceSession.create(await readFile(segmentation), { executionProviders: ['wasm'] });
  const [input, output] = [session.inputNames[0] ?? '', session.outputNames[0] ?? ''];
  const answer = await session.run({ [input]: new ort.Tensor('float32', wave.samples, [1, 1, wave.samples.length]) });
  say({ works: (answer[output]?.dims.length ?? 0) === 3 });
}
