import { open, readFile, rename, rm } from 'node:fs/promises';
import { type CurveHeader, decodeHeader, encodeHeader, HEADER_BYTES } from '@/core/curves/codec.ts';

/** Puts the header before finished samples; the curve appears whole or not at all. */
export async function completeCurve(part: string, target: string, header: Omit<CurveHeader, 'count'>): Promise<void> {
  const samples = await readFile(part);
  const work = `${target}.whole`;
  const file = await open(work, 'w');
  await file.write(encodeHeader({ ...header, count: Math.floor(samples.length / header.bytesPerSample) }), 0, HEADER_BYTES, 0);
  await file.write(samples, 0, samples.length, HEADER_BYTES);
  await file.sync();
  await file.close();
  await rename(work, target);
  await rm(part, { force: true });
}

/** Whether a whole curve lies there that this version of the program reads. */
export async function isCurve(path: string): Promise<boolean> {
  const file = await open(path).catch(() => undefined);
  if (!file) return false;
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(HEADER_BYTES), 0, HEADER_BYTES, 0);
    const { count, bytesPerSample } = decodeHeader(buffer.subarray(0, bytesRead));
    return (await file.stat()).size >= HEADER_BYTES + count * bytesPerSample;
  } catch {
    return false;
  } finally {
    await file.close();
  }
}
