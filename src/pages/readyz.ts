import { endpoint } from '@/server/http/answer.ts';
import { readiness } from '@/server/readiness.ts';

/** Whether requests can be served: database, its version, media store, and whether a worker lives. */
export const GET = endpoint(async () => {
  const state = await readiness();
  return Response.json(state, { status: state.ready ? 200 : 503 });
});
