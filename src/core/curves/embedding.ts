import type { Seconds } from '../time/range.ts';

/** Numbers that describe the sound around one moment. */
export const EMBEDDING_SIZE = 96;
/** One description each so many seconds. */
export const EMBEDDING_HOP: Seconds = 0.04;
export const EMBEDDING_RATE = 25;

/** The model's numbers lie within about ±57; stored as signed bytes in steps of this. */
const STEP = 0.5;

/**
 * Speech embedding of one track over time: the numbers `values[k * EMBEDDING_SIZE]` and on describe the sound around
 * `k * EMBEDDING_HOP` seconds. Sounds that are said alike lie near one another.
 */
export interface EmbeddingCurve {
  readonly values: Int8Array;
}

export const embeddingToByte = (value: number): number => Math.max(-127, Math.min(127, Math.round(value / STEP)));

export const frameCount = ({ values }: EmbeddingCurve): number => Math.floor(values.length / EMBEDDING_SIZE);

/**
 * Descriptions made comparable inside one recording: each number with the mean 0 and the spread 1 over the frames that
 * `counts` names, then each frame scaled to unit length, so that the cosine of two frames is their dot product.
 * @param part the frames that are wanted, from the first up to before the second
 * @returns `EMBEDDING_SIZE` numbers a frame of the part
 */
export function normaliseEmbedding(
  curve: EmbeddingCurve,
  counts: (frame: number) => boolean = () => true,
  part: readonly [number, number] = [0, frameCount(curve)],
): Float32Array {
  const { values } = curve;
  const frames = frameCount(curve);
  const mean = new Float64Array(EMBEDDING_SIZE);
  const squares = new Float64Array(EMBEDDING_SIZE);
  let count = 0;
  for (let frame = 0; frame < frames; frame++) {
    if (!counts(frame)) continue;
    count++;
    for (let k = 0; k < EMBEDDING_SIZE; k++) {
      const value = values[frame * EMBEDDING_SIZE + k] as number;
      mean[k] = (mean[k] as number) + value;
      squares[k] = (squares[k] as number) + value * value;
    }
  }
  const scale = new Float64Array(EMBEDDING_SIZE);
  for (let k = 0; k < EMBEDDING_SIZE; k++) {
    mean[k] = (mean[k] as number) / Math.max(1, count);
    scale[k] = 1 / Math.sqrt(Math.max(1, (squares[k] as number) / Math.max(1, count) - (mean[k] as number) ** 2));
  }
  const [from, until] = [Math.max(0, part[0]), Math.min(frames, part[1])];
  const normalised = new Float32Array(Math.max(0, until - from) * EMBEDDING_SIZE);
  for (let frame = from; frame < until; frame++) {
    const at = (frame - from) * EMBEDDING_SIZE;
    let length = 0;
    for (let k = 0; k < EMBEDDING_SIZE; k++) {
      const value = ((values[frame * EMBEDDING_SIZE + k] as number) - (mean[k] as number)) * (scale[k] as number);
      normalised[at + k] = value;
      length += value * value;
    }
    const unit = 1 / Math.sqrt(Math.max(1e-9, length));
    for (let k = 0; k < EMBEDDING_SIZE; k++) normalised[at + k] = (normalised[at + k] as number) * unit;
  }
  return normalised;
}
