import { readFile } from 'node:fs/promises';

const PAGE_BYTES = 4096;

/** Memory that a process holds, as proc(5) tells in pages; nought when it has gone. */
export async function residentMegabytes(pid: number): Promise<number> {
  const [, pages = '0'] = (await readFile(`/proc/${pid}/statm`, 'latin1').catch(() => '')).split(' ');
  return (Number(pages) * PAGE_BYTES) / 1e6;
}
