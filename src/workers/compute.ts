import { z } from 'zod';
import { COMPUTATIONS, type Computation } from '@/server/compute/computations.ts';
import { outlast } from '@/server/db/outage.ts';

/** The process that computes what may take more than it should: it can be ended at any moment, and nothing else is lost. */
const question = z.object({ what: z.enum(Object.keys(COMPUTATIONS) as [Computation, ...Computation[]]), id: z.string() });

process.on('message', async (message) => {
  const { what, id } = question.parse(message);
  const error = await outlast(() => COMPUTATIONS[what](id)).then(
    () => undefined,
    (reason: Error) => reason.stack ?? reason.message,
  );
  process.send?.({ error });
});
process.on('disconnect', () => process.exit(0));
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => {});
