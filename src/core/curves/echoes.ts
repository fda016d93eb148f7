import type { Range, Seconds } from '../time/range.ts';

/** Two stretches of a recording that sound as if the same was said in both, from their beginnings on. */
export interface Echo {
  readonly left: Range;
  readonly right: Range;
  /** how long the left one goes together with the right one */
  readonly matched: Seconds;
  /** how far apart they are, as a share of what two moments of the recording are on average: 0 is the same, 1 is chance */
  readonly closeness: number;
}

/** Bytes an echo takes in a curve file: four times in milliseconds, then matched in hundredths and closeness in hundredths. */
export const ECHO_BYTES = 20;

export function packEchoes(echoes: readonly Echo[]): Uint8Array {
  const bytes = new Uint8Array(echoes.length * ECHO_BYTES);
  const view = new DataView(bytes.buffer);
  for (const [k, { left, right, matched, closeness }] of echoes.entries()) {
    const at = k * ECHO_BYTES;
    for (const [n, seconds] of [left.start, left.end, right.start, right.end].entries())
      view.setUint32(at + 4 * n, Math.round(seconds * 1000), true);
    view.setUint16(at + 16, Math.min(65_535, Math.round(matched * 100)), true);
    view.setUint16(at + 18, Math.min(65_535, Math.round(closeness * 100)), true);
  }
  return bytes;
}

export function unpackEchoes(bytes: Uint8Array): Echo[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return Array.from({ length: Math.floor(bytes.byteLength / ECHO_BYTES) }, (_, k) => {
    const at = k * ECHO_BYTES;
    const seconds = (n: number) => view.getUint32(at + 4 * n, true) / 1000;
    return {
      left: { start: seconds(0), end: seconds(1) },
      right: { start: seconds(2), end: seconds(3) },
      matched: view.getUint16(at + 16, true) / 100,
      closeness: view.getUint16(at + 18, true) / 100,
    };
  });
}
