import type { Range } from '../../time/range.ts';
import type { KindOf } from '../kinds.ts';

/** Something that was not said to those who will listen, or a noise made for whoever cuts. */
export interface Aside extends Range {
  readonly kind: KindOf<'asides'>;
  readonly confidence: number;
  readonly group?: string;
  readonly evidence: Readonly<Record<string, number>>;
}

/** Doubtful by default: whoever was there knows better. A sum of weights to a confidence that leaves it open. */
export const doubtful = (sum: number): number => Math.round((100 * 0.58) / (1 + Math.exp(-sum))) / 100;
