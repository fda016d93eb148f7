import { createInterface } from 'node:readline';
import sherpa from 'sherpa-onnx-node';
import { z } from 'zod';

/**
 * The process in which a model runs. Native code ends its process where files do not fit together, and what it allocates is bounded from
 * outside. Lines of JSON come in and go out: first the configuration, answered once it is loaded, then sound files, several at a time.
 */
const configuration = z.object({
  engine: z.string(),
  files: z.record(z.string(), z.union([z.string(), z.number()])),
  tokens: z.string(),
});
const question = z.object({ id: z.number(), path: z.string() });

const say = (answer: unknown) => process.stdout.write(`${JSON.stringify(answer)}\n`);
const lines = createInterface({ input: process.stdin });

let recogniser: Awaited<ReturnType<typeof sherpa.OfflineRecognizer.createAsync>> | undefined;
for await (const line of lines) {
  if (!recogniser) {
    const { engine, files, tokens } = configuration.parse(JSON.parse(line));
    recogniser = await sherpa.OfflineRecognizer.createAsync({
      featConfig: { sampleRate: 16_000, featureDim: 80 },
      modelConfig: { [engine]: files, tokens, numThreads: 1, provider: 'cpu', debug: 0 },
    });
    say({ ready: true });
    continue;
  }
  const { id, path } = question.parse(JSON.parse(line));
  const stream = recogniser.createStream();
  const wave = sherpa.readWave(path, false);
  stream.acceptWaveform(wave);
  const seconds = wave.samples.length / wave.sampleRate;
  recogniser.decodeAsync(stream).then(
    ({ text, tokens, timestamps, durations, ys_log_probs }) =>
      say({ id, seconds, text, tokens, timestamps, durations, logProbabilities: ys_log_probs }),
    (error: Error) => say({ id, error: error.message }),
  );
}
