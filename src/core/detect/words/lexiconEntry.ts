/**
 * How surely a word is a filler: a hesitation and nothing else; often one, to be judged by its context; one only for
 * those who ask for it; no filler but a word to whoever cuts; or switched off.
 */
export const STRENGTHS = ['always', 'often', 'asked', 'cue', 'off'] as const;
export type Strength = (typeof STRENGTHS)[number];

export interface LexiconEntry {
  /** one or more words in small letters, with single spaces */
  readonly phrase: string;
  readonly strength: Strength;
}
