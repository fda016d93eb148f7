import { create as contentDisposition } from 'content-disposition';
import type { NamedFile } from '../handoff/files.ts';

/** A file to be saved under its name. */
export const sendNamed = ({ name, mime, content }: NamedFile): Response =>
  new Response(content as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': mime, 'content-disposition': contentDisposition(name), 'cache-control': 'no-store' },
  });
