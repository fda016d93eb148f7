import { create as contentDisposition } from 'content-disposition';
import type { NamedFile } from '../handoff/files.ts';
import { sendFile } from './file.ts';

/** A file to be saved under its name. */
export const sendNamed = ({ name, mime, content }: NamedFile): Response =>
  new Response(content as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': mime, 'content-disposition': contentDisposition(name), 'cache-control': 'no-store' },
  });

/** A file of the disk, or a range of it, to be saved under a name. */
export async function sendFileAs(request: Request, path: string, mime: string, name: string): Promise<Response> {
  const answer = await sendFile(request, path, mime);
  answer.headers.set('content-disposition', contentDisposition(name));
  return answer;
}
