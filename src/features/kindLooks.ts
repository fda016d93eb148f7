import type { ProposalKind } from '@/core/detect/kinds.ts';
import { HEARD_GROUP } from '@/core/detect/words/unwrittenHesitations.ts';
import type { SeenProposal } from '@/core/programme/packing.ts';
import { formatLength } from '@/core/time/clock.ts';

/** The form of a bracket over the score: see `traceBracket`. */
export type BracketForm = 'square' | 'inward' | 'outward' | 'round' | 'doubleLeg' | 'doubleBar';

/** How a kind of proposal is called and drawn, and where it is gone through. */
export interface KindLook {
  readonly name: string;
  /** how lists call it beside its time */
  readonly phrase?: string;
  /** the tray whose keys step through it; takes have keys of their own */
  readonly tray?: 'pauses' | 'words' | 'takes';
  readonly ink: 'pause' | 'filler' | 'hand';
  readonly bracket: BracketForm;
  /** what stands in its bracket */
  readonly label: (proposal: Pick<SeenProposal, 'group' | 'start' | 'end'>) => string;
}

const length: KindLook['label'] = ({ start, end }) => formatLength(end - start);
const none = () => '';

/** A kind without a line here does not compile. */
export const KIND_LOOKS: Readonly<Record<ProposalKind, KindLook>> = {
  pause: { name: 'Pause', tray: 'pauses', ink: 'pause', bracket: 'square', label: length },
  // Words that go stand below already, but what nobody wrote is named.
  filler: {
    name: 'Filler',
    tray: 'words',
    ink: 'filler',
    bracket: 'round',
    label: ({ group }) => (group === HEARD_GROUP ? 'heard' : ''),
  },
  repeat: { name: 'Repeat', tray: 'words', ink: 'filler', bracket: 'doubleLeg', label: () => '2×' },
  retake: { name: 'Retake', ink: 'hand', bracket: 'doubleBar', label: none },
  cue: { name: 'Cue', phrase: 'said to whoever cuts', tray: 'takes', ink: 'filler', bracket: 'outward', label: none },
  broken: { name: 'Broken off', phrase: 'broken off', tray: 'takes', ink: 'filler', bracket: 'outward', label: none },
  head: { name: 'Before the start', phrase: 'before the start', tray: 'takes', ink: 'filler', bracket: 'outward', label: none },
  tail: { name: 'After the end', phrase: 'after the end', tray: 'takes', ink: 'filler', bracket: 'outward', label: none },
  hand: { name: 'Cut by hand', tray: 'pauses', ink: 'hand', bracket: 'inward', label: length },
};
