import type { Range, Seconds } from '../time/range.ts';

/** Two stretches of a recording that sound as if the same was said in both, from their beginnings on. */
export interface Echo {
  readonly left: Range;
  readonly right: Range;
  /** how long the left one goes together with the right one */
  readonly matched: Seconds;
  /** mean distance of the two along their warping path: 0 is the same, 1 is chance */
  readonly closeness: number;
  /** the same over the 0.3 s in which they are furthest apart: one word that differs shows here */
  readonly worst: number;
  /** the path, in order */
  readonly path: readonly EchoStep[];
}

/** A moment of the left stretch, the moment of the right one that goes with it, and how far apart they are around there. */
export interface EchoStep {
  readonly left: Seconds;
  readonly right: Seconds;
  readonly apart: number;
}

/** Distances are kept in two-hundredths, moments of the path in hundredths of a second from the start of their stretch. */
const DISTANCE_STEPS = 200;
const HEAD_BYTES = 24;
const STEP_BYTES = 5;

/**
 * Echoes as bytes, one after another: four moments in milliseconds (u32), matched in hundredths of a second (u16), closeness and
 * worst (u8 each), steps of the path (u16), two bytes that are 0; then each step: left and right (u16), apart (u8).
 */
export function packEchoes(echoes: readonly Echo[]): Uint8Array {
  const bytes = new Uint8Array(echoes.reduce((sum, { path }) => sum + HEAD_BYTES + STEP_BYTES * path.length, 0));
  const view = new DataView(bytes.buffer);
  let at = 0;
  for (const { left, right, matched, closeness, worst, path } of echoes) {
    for (const [n, seconds] of [left.start, left.end, right.start, right.end].entries())
      view.setUint32(at + 4 * n, Math.round(seconds * 1000), true);
    view.setUint16(at + 16, shortOf(matched * 100), true);
    view.setUint8(at + 18, distanceByte(closeness));
    view.setUint8(at + 19, distanceByte(worst));
    view.setUint16(at + 20, path.length, true);
    at += HEAD_BYTES;
    for (const step of path) {
      view.setUint16(at, shortOf((step.left - left.start) * 100), true);
      view.setUint16(at + 2, shortOf((step.right - right.start) * 100), true);
      view.setUint8(at + 4, distanceByte(step.apart));
      at += STEP_BYTES;
    }
  }
  return bytes;
}

const shortOf = (value: number): number => Math.max(0, Math.min(65_535, Math.round(value)));
const distanceByte = (value: number): number => Math.max(0, Math.min(255, Math.round(value * DISTANCE_STEPS)));

/** @throws RangeError when the bytes end inside an echo */
export function unpackEchoes(bytes: Uint8Array): Echo[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const echoes: Echo[] = [];
  for (let at = 0; at < bytes.byteLength; ) {
    const head = at;
    const seconds = (n: number) => view.getUint32(head + 4 * n, true) / 1000;
    const left = { start: seconds(0), end: seconds(1) };
    const right = { start: seconds(2), end: seconds(3) };
    const steps = view.getUint16(head + 20, true);
    at += HEAD_BYTES;
    const path: EchoStep[] = [];
    for (let k = 0; k < steps; k++, at += STEP_BYTES)
      path.push({
        left: left.start + view.getUint16(at, true) / 100,
        right: right.start + view.getUint16(at + 2, true) / 100,
        apart: view.getUint8(at + 4) / DISTANCE_STEPS,
      });
    echoes.push({
      left,
      right,
      matched: view.getUint16(head + 16, true) / 100,
      closeness: view.getUint8(head + 18) / DISTANCE_STEPS,
      worst: view.getUint8(head + 19) / DISTANCE_STEPS,
      path,
    });
  }
  return echoes;
}
