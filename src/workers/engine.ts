import { createInterface } from 'node:readline';
import sherpa from 'sherpa-onnx-node';
import { z } from 'zod';
import { PosteriorNetwork } from '@/server/media/models/posteriors.ts';

/**
 * The process in which a model runs. Native code ends its process where files do not fit together, and what it allocates is bounded from
 * outside. Lines of JSON come in and go out: first the configuration, answered once it is loaded, then sound files, several at a time.
 */
const configuration = z.object({
  engine: z.string(),
  files: z.record(z.string(), z.union([z.string(), z.number()])),
  tokens: z.string(),
});
/** A sound to be heard; with words, those are put under it. */
const question = z.object({ id: z.number(), path: z.string(), words: z.array(z.string()).optional() });

const say = (answer: unknown) => process.stdout.write(`${JSON.stringify(answer)}\n`);
const lines = createInterface({ input: process.stdin });

let opened: z.infer<typeof configuration> | undefined;
let network: Promise<PosteriorNetwork> | undefined;
let recogniser: Awaited<ReturnType<typeof sherpa.OfflineRecognizer.createAsync>> | undefined;
for await (const line of lines) {
  if (!recogniser) {
    opened = configuration.parse(JSON.parse(line));
    const { engine, files, tokens } = opened;
    recogniser = await sherpa.OfflineRecognizer.createAsync({
      featConfig: { sampleRate: 16_000, featureDim: 80 },
      modelConfig: { [engine]: files, tokens, numThreads: 1, provider: 'cpu', debug: 0 },
    });
    say({ ready: true });
    continue;
  }
  const { id, path, words } = question.parse(JSON.parse(line));
  const stream = recogniser.createStream();
  const wave = sherpa.readWave(path, false);
  stream.acceptWaveform(wave);
  const seconds = wave.samples.length / wave.sampleRate;
  recogniser.decodeAsync(stream).then(
    async ({ text, tokens, timestamps, durations, ys_log_probs }) => {
      if (words) say({ id, places: (await placed(wave.samples, words, tokens)) ?? null });
      else say({ id, seconds, text, tokens, timestamps, durations, logProbabilities: ys_log_probs });
    },
    (error: Error) => say({ id, error: error.message }),
  );
}

/** Where words are said in a sound, as far as the network can tell. */
async function placed(samples: Float32Array, words: readonly string[], heard: readonly string[]) {
  const { engine, files, tokens } = opened as z.infer<typeof configuration>;
  const asText = Object.fromEntries(Object.entries(files).map(([name, value]) => [name, String(value)]));
  network ??= PosteriorNetwork.open({ engine, files: asText, tokens });
  return network.then((one) => one.place(samples, words, heard)).catch(() => undefined);
}
