import { createReadStream } from 'node:fs';
import { readFile, stat } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { notFound, Refusal } from '../refusal.ts';
import { FOR_EVER, sendPacked } from './packed.ts';

/**
 * Answers with a file or a byte range of it (RFC 9110, single ranges). With `compressible`, a whole file is packed
 * for those who take gzip.
 */
export async function sendFile(request: Request, path: string, type: string, compressible = false): Promise<Response> {
  const { size, mtimeMs } = await stat(path).catch(() => {
    throw notFound('That file');
  });
  const headers = { 'content-type': type, 'accept-ranges': 'bytes', 'cache-control': FOR_EVER };
  const asked = /^bytes=(\d*)-(\d*)$/.exec(request.headers.get('range') ?? '');
  if (!asked || (asked[1] === '' && asked[2] === '')) {
    if (compressible) return sendPacked(request, `${path} ${size} ${mtimeMs}`, () => readFile(path), headers);
    return new Response(streamOf(path, 0, size - 1), { headers: { ...headers, 'content-length': String(size) } });
  }
  const start = asked[1] === '' ? Math.max(0, size - Number(asked[2])) : Number(asked[1]);
  const end = asked[1] === '' || asked[2] === '' ? size - 1 : Math.min(size - 1, Number(asked[2]));
  if (start > end) throw new Refusal(400, `The range lies outside the file of ${size} bytes.`);
  return new Response(streamOf(path, start, end), {
    status: 206,
    headers: { ...headers, 'content-range': `bytes ${start}-${end}/${size}`, 'content-length': String(end - start + 1) },
  });
}

function streamOf(path: string, start: number, end: number): ReadableStream | null {
  if (end < start) return null;
  return Readable.toWeb(createReadStream(path, { start, end })) as ReadableStream;
}
