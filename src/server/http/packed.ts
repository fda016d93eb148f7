import { promisify } from 'node:util';
import { gunzip, gzip } from 'node:zlib';
import { LRUCache } from 'lru-cache';

const compress = promisify(gzip);
const uncompress = promisify(gunzip);

/** Content that never changes under its address. */
export const FOR_EVER = 'private, max-age=31536000, immutable';

/** Packing curves and words of some hours takes as long as all the rest of opening an episode on the server. */
const packed = new LRUCache<string, Uint8Array<ArrayBuffer>>({
  maxSize: 64_000_000,
  sizeCalculation: ({ length }) => length || 1,
});

/**
 * Answers with content that is packed once, for those who take gzip.
 * @param key another one when the content is another
 */
export async function sendPacked(
  request: Request,
  key: string,
  content: () => Promise<Uint8Array | string>,
  headers: Record<string, string>,
): Promise<Response> {
  if (!request.headers.get('accept-encoding')?.includes('gzip')) return new Response(Buffer.from(await content()), { headers });
  let body = packed.get(key);
  if (!body) {
    body = new Uint8Array(await compress(await content(), { level: 1 }));
    packed.set(key, body);
  }
  return new Response(body, { headers: { ...headers, 'content-encoding': 'gzip', vary: 'accept-encoding' } });
}

/** Answers with what is kept as gzip, unpacked for those who do not take that. */
export async function sendGzip(request: Request, body: Uint8Array, headers: Record<string, string>): Promise<Response> {
  if (!request.headers.get('accept-encoding')?.includes('gzip'))
    return new Response(new Uint8Array(await uncompress(body)), { headers });
  return new Response(new Uint8Array(body), { headers: { ...headers, 'content-encoding': 'gzip', vary: 'accept-encoding' } });
}
