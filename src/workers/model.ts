import { z } from 'zod';
import { addModel } from '@/server/media/models/addModel.ts';

/** The process that adds a model: unpacking keeps a core busy, and a process can be ended at any moment. */
const question = z.object({
  source: z.string(),
  called: z.string().optional(),
  languages: z.array(z.string()),
  digest: z.string().optional(),
});

const stopping = new AbortController();
process.on('disconnect', () => stopping.abort());
process.once('message', async (message) => {
  const { source, called, languages, digest } = question.parse(message);
  const answer = await addModel(source, {
    languages: languages.length > 0 ? languages : undefined,
    called,
    digest,
    signal: stopping.signal,
    onProgress: (step, share) => process.send?.({ step, share: share ?? null }),
  }).then(
    () => ({ done: true }),
    (error: Error) => ({ problem: error.message }),
  );
  process.send?.(answer, () => process.exit(0));
});
