import type { APIContext } from 'astro';
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { Refusal } from '../refusal.ts';
import { bodyOf, illFormedText } from './body.ts';

const context = (body: BodyInit) =>
  ({ request: new Request('http://127.0.0.1/', { method: 'POST', body, duplex: 'half' } as RequestInit) }) as APIContext;
const schema = z.object({ title: z.string().max(20), words: z.array(z.string()).optional() });
const statusOf = (body: BodyInit, most?: number) =>
  bodyOf(context(body), schema, most).then(
    () => 200,
    (error) => (error instanceof Refusal ? error.status : 500),
  );

describe('the body of a request', () => {
  it('is what its schema says, or refused', async () => {
    expect(await bodyOf(context('{"title":"Quill & Verge 🕰️"}'), schema)).toEqual({ title: 'Quill & Verge 🕰️' });
    for (const body of ['', 'title', '{"title":', '[]', 'null', '{"title":7}', '{"title":"far too long to be a title"}'])
      expect(await statusOf(body)).toBe(400);
    expect(await statusOf(new Uint8Array([0x22, 0xff, 0x22]))).toBe(400);
  });

  it('is read no further than it may be long, whatever its head says', async () => {
    expect(await statusOf(`{"title":"${'a'.repeat(200)}"}`, 100)).toBe(413);
    let given = 0;
    const endless = new ReadableStream({
      pull: (controller) => {
        given += 1000;
        controller.enqueue(new Uint8Array(1000).fill(0x20));
      },
    });
    expect(await statusOf(endless, 5000)).toBe(413);
    expect(given).toBeLessThan(20_000);
  });

  it('holds no text that cannot be kept, and the place of one is named', async () => {
    for (const [body, place] of [
      ['{"title":"a\\u0000b"}', 'title'],
      ['{"title":"x","words":["tick","\\ud83d"]}', 'words.1'],
      ['{"title":"x","more":{"deep":["\\udfff"]}}', 'more.deep.0'],
    ] as const)
      await expect(bodyOf(context(body), schema)).rejects.toThrow(`The text in ${place} holds a character that cannot be kept`);
    expect(illFormedText({ '\0': 1 })).toBeDefined();
    expect(illFormedText(['🕰️', { a: [null, 1, 'ÿ'] }])).toBeUndefined();
    let deep: unknown = '\0';
    for (let k = 0; k < 50_000; k++) deep = [deep];
    expect(illFormedText(deep)).toBeDefined();
  });
});
