import type { Seconds } from '../time/range.ts';
import { EMBEDDING_RATE, EMBEDDING_SIZE } from './embedding.ts';

/** Scores are kept from here on, in sixteenths; lower ones are all alike: nothing like a hesitation. */
const LOWEST = -8;
const STEPS = 16;

/**
 * How much the sound of one track is like a hesitation ("um", "er", a held vowel), over time: `codes[k]` is about `k / 25` s. A
 * code is a score of log-odds, see `hesitationScoreOf`.
 */
export interface HesitationCurve {
  readonly codes: Uint8Array;
}

/** Weights of a linear judgement of one frame of embedding: log-odds that it is inside a hesitation. */
export interface HesitationModel {
  readonly intercept: number;
  readonly weights: readonly number[];
}

/** Log-odds of a code. */
export const hesitationScoreOf = (code: number): number => LOWEST + code / STEPS;

/** @param embedding frames of unit length: see `normaliseEmbedding` */
export function hesitationCurve(embedding: Float32Array, { intercept, weights }: HesitationModel): HesitationCurve {
  const frames = Math.floor(embedding.length / EMBEDDING_SIZE);
  const codes = new Uint8Array(frames);
  for (let frame = 0; frame < frames; frame++) {
    let sum = intercept;
    for (let k = 0; k < EMBEDDING_SIZE; k++) sum += (weights[k] as number) * (embedding[frame * EMBEDDING_SIZE + k] as number);
    codes[frame] = Math.max(0, Math.min(255, Math.round((sum - LOWEST) * STEPS)));
  }
  return { codes };
}

/** Mean score over a stretch, of its middle if it is long: its edges sound of what stands beside it. */
export function hesitationIn({ codes }: HesitationCurve, start: Seconds, end: Seconds): number {
  const middle = (start + end) / 2;
  const half = Math.max(0.04, 0.35 * (end - start));
  const from = Math.max(0, Math.round((middle - half) * EMBEDDING_RATE));
  const until = Math.min(codes.length, Math.round((middle + half) * EMBEDDING_RATE) + 1);
  if (until <= from) return LOWEST;
  let sum = 0;
  for (let k = from; k < until; k++) sum += codes[k] as number;
  return hesitationScoreOf(sum / (until - from));
}

/** Most frames are nothing like a hesitation: runs of codes under this are kept as their length alone. */
const LEAST_KEPT = 32;
const LONGEST_RUN = 255;

/** Codes as bytes: a code as it is, or 0 and how many low ones follow, which come back as 0. */
export function packHesitation({ codes }: HesitationCurve): Uint8Array {
  const bytes: number[] = [];
  for (let k = 0; k < codes.length; ) {
    const code = codes[k] as number;
    if (code >= LEAST_KEPT) {
      bytes.push(code);
      k++;
      continue;
    }
    let run = 0;
    while (run < LONGEST_RUN && k < codes.length && (codes[k] as number) < LEAST_KEPT) {
      run++;
      k++;
    }
    bytes.push(0, run);
  }
  return Uint8Array.from(bytes);
}

export function unpackHesitation(bytes: Uint8Array): HesitationCurve {
  let frames = 0;
  for (let k = 0; k < bytes.length; k++) frames += bytes[k] === 0 ? (bytes[++k] ?? 0) : 1;
  const codes = new Uint8Array(frames);
  for (let k = 0, frame = 0; k < bytes.length; k++)
    if (bytes[k] === 0) frame += bytes[++k] ?? 0;
    else codes[frame++] = bytes[k] as number;
  return { codes };
}
