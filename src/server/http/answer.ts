import type { APIContext, APIRoute } from 'astro';
import { z } from 'zod';
import { isOutage } from '../db/outage.ts';
import { log } from '../log.ts';
import { asPassing } from '../media/bounds.ts';
import { Refusal } from '../refusal.ts';

/** An endpoint from a function that returns data, a Response, or nothing, and throws a Refusal for what it refuses. */
export function endpoint(work: (context: APIContext) => Promise<unknown>): APIRoute {
  return async (context) => {
    try {
      const answer = await work(context);
      if (answer instanceof Response) return answer;
      return answer === undefined ? new Response(null, { status: 204 }) : Response.json(answer);
    } catch (error) {
      if (error instanceof Refusal) return refuse(error.status, error.message);
      if (isOutage(error)) return refuse(503, 'The database does not answer. Nothing is lost, and it goes on when it is back.');
      const passing = asPassing(error);
      if (passing) return refuse(passing.isFull ? 507 : 503, `${passing.message} Nothing was changed.`);
      log.error({ path: context.url.pathname, error: (error as Error).stack }, 'request failed');
      return refuse(500, 'Something went wrong on the server. Nothing was changed; try again.');
    }
  };
}

const refuse = (status: number, error: string): Response => Response.json({ error }, { status });

/** How urgent a request says it is (RFC 9218): 0 is the most, 7 the least, 3 where nothing is said. */
export const urgencyOf = (request: Request): number =>
  Number(/\bu=([0-7])/.exec(request.headers.get('priority') ?? '')?.[1] ?? 3);

/** A path parameter that must be a UUID. */
export function uuidOf({ params }: APIContext, name = 'id'): string {
  const parsed = z.uuid().safeParse(params[name]);
  if (!parsed.success) throw new Refusal(404, 'There is no such thing.');
  return parsed.data;
}
