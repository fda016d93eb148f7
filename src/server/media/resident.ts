import { readFile } from 'node:fs/promises';

const PAGE_BYTES = 4096;

/** Memory that a process holds, as proc(5) tells in pages; nought when it has gone. */
export async function residentMegabytes(pid: number): Promise<number> {
  const [, pages = '0'] = (await readFile(`/proc/${pid}/statm`, 'latin1').catch(() => '')).split(' ');
  return (Number(pages) * PAGE_BYTES) / 1e6;
}

const LOOK_MS = 500;

/**
 * Watches what memory a process holds. What it reserves is no measure.
 * @param end called when it holds more than it may
 * @returns stops watching
 */
export function endAbove(pid: number | undefined, megabytes: number, end: () => void): () => void {
  const looking = setInterval(() => {
    void residentMegabytes(pid ?? 0).then((held) => held > megabytes && end());
  }, LOOK_MS);
  return () => clearInterval(looking);
}
