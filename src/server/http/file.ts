import { createReadStream } from 'node:fs';
import { readFile, stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { notFound } from '../refusal.ts';
import { FOR_EVER, sendPacked } from './packed.ts';

/**
 * Answers with a file or a byte range of it (RFC 9110, single ranges). With `compressible`, a whole file is packed
 * for those who take gzip.
 */
export async function sendFile(request: Request, path: string, type: string, compressible = false): Promise<Response> {
  const { size, mtimeMs } = await stat(path).catch(() => {
    throw notFound('That file');
  });
  const etag = `"${size.toString(36)}-${Math.round(mtimeMs).toString(36)}"`;
  const headers = { 'content-type': type, 'accept-ranges': 'bytes', 'cache-control': FOR_EVER, etag };
  if (request.headers.get('if-none-match') === etag) return new Response(null, { status: 304, headers });
  // A range of what the file was before is answered with the whole.
  const ifRange = request.headers.get('if-range');
  const asked = ifRange !== null && ifRange !== etag ? null : /^bytes=(\d*)-(\d*)$/.exec(request.headers.get('range') ?? '');
  if (!asked || (asked[1] === '' && asked[2] === '')) {
    if (compressible) return sendPacked(request, `${path} ${size} ${mtimeMs}`, () => readFile(path), headers);
    return new Response(streamOf(path, 0, size - 1), { headers: { ...headers, 'content-length': String(size) } });
  }
  const start = asked[1] === '' ? Math.max(0, size - Number(asked[2])) : Number(asked[1]);
  const end = asked[1] === '' || asked[2] === '' ? size - 1 : Math.min(size - 1, Number(asked[2]));
  if (start > end)
    return new Response(null, { status: 416, headers: { 'content-range': `bytes */${size}`, 'cache-control': 'no-store' } });
  return new Response(streamOf(path, start, end), {
    status: 206,
    headers: { ...headers, 'content-range': `bytes ${start}-${end}/${size}`, 'content-length': String(end - start + 1) },
  });
}

function streamOf(path: string, start: number, end: number): ReadableStream | null {
  if (end < start) return null;
  return Readable.toWeb(createReadStream(path, { start, end })) as ReadableStream;
}
