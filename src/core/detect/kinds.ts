/** Kinds of proposals by what they are found by, in the order in which packed cuts number them. A new kind is a line here. */
export const KINDS = {
  pause: 'sound',
  filler: 'words',
  repeat: 'words',
  retake: 'takes',
  cue: 'asides',
  broken: 'asides',
  head: 'asides',
  tail: 'asides',
  hand: 'hand',
} as const;

export type ProposalKind = keyof typeof KINDS;
export type KindFamily = (typeof KINDS)[ProposalKind];
export type KindOf<F extends KindFamily> = { [K in ProposalKind]: (typeof KINDS)[K] extends F ? K : never }[ProposalKind];

export const KIND_NAMES = Object.keys(KINDS) as [ProposalKind, ...ProposalKind[]];

export const isOf = (family: KindFamily, kind: ProposalKind): boolean => KINDS[kind] === family;
