import type { Range } from '../../time/range.ts';
import type { ProposalKind } from '../detector.ts';

/** Something that was not said to those who will listen, or a noise made for whoever cuts. */
export interface Aside extends Range {
  readonly kind: Extract<ProposalKind, 'cue' | 'broken' | 'head' | 'tail'>;
  readonly confidence: number;
  readonly group?: string;
  readonly evidence: Readonly<Record<string, number>>;
}

/** What the numbers of the evidence say, as the interface words it. */
export const ASIDE_REASONS = {
  allCue: 'nothing else is said in one go',
  opens: 'begins with words that are said to whoever cuts',
  closes: 'ends with words that are said to whoever cuts',
  alone: 'silence on both sides',
  noSign: 'no sentence: it starts small and ends without a sign',
  clapDb: 'a clap: a sound as short and as loud stands alone in silence',
  grammar: 'stops after a word that needs another behind it',
  startsAnew: 'the words behind it start a sentence of their own',
  camera: 'talk about the recording itself',
  beforeStart: 'before the first real sentence',
  behindEnd: 'after the last real sentence',
  longPause: 'a long pause parts it from the rest',
} as const;

/** Doubtful by default: whoever was there knows better. A sum of weights to a confidence that leaves it open. */
export const doubtful = (sum: number): number => Math.round((100 * 0.58) / (1 + Math.exp(-sum))) / 100;
