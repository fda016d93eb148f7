import type { APIContext } from 'astro';
import { z } from 'zod';
import { Refusal } from '../refusal.ts';

/** Bytes of a body that holds decisions or the like. */
const MOST_JSON = 1_000_000;

/**
 * Body of a request by its schema, read no further than `most` bytes. All texts in it can be kept: this is the one place where
 * that is made sure of.
 * @throws Refusal naming what does not fit
 */
export async function bodyOf<T>({ request }: APIContext, schema: z.core.$ZodType<T>, most = MOST_JSON): Promise<T> {
  const value = parsedJson(await textOf(request, most));
  const spoilt = illFormedText(value);
  if (spoilt !== undefined)
    throw new Refusal(400, `The text in ${spoilt} holds a character that cannot be kept (NUL, or half of a character).`);
  const parsed = z.safeParse(schema, value);
  if (!parsed.success) throw new Refusal(400, z.prettifyError(parsed.error).slice(0, MOST_SAID));
  return parsed.data;
}

/** A message may name each of a thousand things that are wrong. */
const MOST_SAID = 2000;

/** Text of a request, read no further than `most` bytes. @throws Refusal when there are more, or it is not UTF-8 */
export async function textOf(request: Request, most: number): Promise<string> {
  const tooMuch = new Refusal(413, `That is more than the ${(most / 1e6).toFixed(0)} MB that can be taken at once.`);
  if (Number(request.headers.get('content-length') ?? 0) > most) throw tooMuch;
  const chunks: Uint8Array[] = [];
  let bytes = 0;
  for await (const chunk of (request.body ?? []) as unknown as AsyncIterable<Uint8Array>) {
    bytes += chunk.length;
    if (bytes > most) throw tooMuch;
    chunks.push(chunk);
  }
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(Buffer.concat(chunks));
  } catch {
    throw new Refusal(400, 'The request is not UTF-8.');
  }
}

function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new Refusal(400, 'The request is not JSON.');
  }
}

/** PostgreSQL keeps neither: NUL in no text, and half a surrogate pair in no JSON. */
const ILL_FORMED = /\0|\p{Surrogate}/u;
export const isIllFormed = (text: string): boolean => ILL_FORMED.test(text);

/** Where in a value of JSON the first text stands that cannot be kept. */
export function illFormedText(value: unknown): string | undefined {
  const left: [at: string, value: unknown][] = [['', value]];
  for (let next = left.pop(); next; next = left.pop()) {
    const [at, found] = next;
    if (typeof found === 'string' && isIllFormed(found)) return at || 'the request';
    if (typeof found !== 'object' || found === null) continue;
    for (const [key, inner] of Object.entries(found)) {
      if (isIllFormed(key)) return at || 'the request';
      left.push([at ? `${at}.${key}` : key, inner]);
    }
  }
  return undefined;
}
