import type { ProposalKind } from '../../detect/kinds.ts';
import type { Frames } from '../../time/rate.ts';

/** What a mark on a timeline is about. */
export type MarkerAbout = 'open' | 'chapter' | 'reason' | 'removed';

/** A mark on a timeline. */
export interface Marker {
  readonly about: MarkerAbout;
  /** kind of the proposal; none for a chapter */
  readonly kind?: ProposalKind;
  readonly at: Frames;
  /** frames that it covers; nought for a moment */
  readonly length: Frames;
  readonly name: string;
  readonly comment: string;
}

/** A colour that timelines know by name, and as red, green and blue. */
export interface MarkerColour {
  readonly name: 'RED' | 'PINK' | 'ORANGE' | 'YELLOW' | 'GREEN' | 'CYAN' | 'BLUE' | 'PURPLE' | 'MAGENTA' | 'BLACK' | 'WHITE';
  readonly rgb: readonly [red: number, green: number, blue: number];
}

const COLOURS: Readonly<Record<ProposalKind | 'chapter', MarkerColour>> = {
  pause: { name: 'CYAN', rgb: [64, 190, 200] },
  filler: { name: 'ORANGE', rgb: [230, 140, 40] },
  repeat: { name: 'YELLOW', rgb: [220, 200, 60] },
  retake: { name: 'GREEN', rgb: [80, 160, 90] },
  cue: { name: 'BLUE', rgb: [70, 110, 190] },
  broken: { name: 'PINK', rgb: [220, 150, 170] },
  head: { name: 'BLUE', rgb: [70, 110, 190] },
  tail: { name: 'BLUE', rgb: [70, 110, 190] },
  hand: { name: 'BLACK', rgb: [60, 60, 60] },
  chapter: { name: 'WHITE', rgb: [235, 235, 235] },
};

export const colourOf = ({ kind }: Pick<Marker, 'kind'>): MarkerColour => COLOURS[kind ?? 'chapter'];
