import type { APIContext, APIRoute } from 'astro';
import { z } from 'zod';
import { log } from '../log.ts';
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
      log.error({ path: context.url.pathname, error: (error as Error).stack }, 'request failed');
      return refuse(500, 'Something went wrong on the server. Nothing was changed; try again.');
    }
  };
}

export const refuse = (status: number, error: string): Response => Response.json({ error }, { status });

/** Body of a request by its schema. @throws Refusal naming what does not fit */
export async function bodyOf<T>({ request }: APIContext, schema: z.core.$ZodType<T>): Promise<T> {
  const value = await request.json().catch(() => {
    throw new Refusal(400, 'The request is not JSON.');
  });
  const parsed = z.safeParse(schema, value);
  if (!parsed.success) throw new Refusal(400, z.prettifyError(parsed.error));
  return parsed.data;
}

/** A path parameter that must be a UUID. */
export function uuidOf({ params }: APIContext, name = 'id'): string {
  const parsed = z.uuid().safeParse(params[name]);
  if (!parsed.success) throw new Refusal(404, 'There is no such thing.');
  return parsed.data;
}
