import { type Range, type Seconds, subtract } from '../time/range.ts';
import type { DecisionEvent } from './event.ts';

/** A passage set to another place: before what stands at `to` on the clock, or after what ends there. */
export interface Move {
  readonly id: string;
  readonly about: Range;
  readonly to: Seconds;
  readonly side: 'before' | 'after';
}

/** A moment at which a part of the programme begins. */
export interface Break {
  readonly part: string;
  readonly at: Seconds;
  readonly title: string;
}

/** In which order wanted passages make the programme. */
export type CollectingOrder = 'marking' | 'recording';

/** How the programme is laid out: from which recordings, in which order, in which parts. */
export interface Layout {
  /** recordings that are no part of the episode now */
  readonly removed: readonly string[];
  /** oldest first */
  readonly moves: readonly Move[];
  /** wanted passages in the order in which they were marked, none overlapping another */
  readonly collected: readonly Range[];
  /** only what is wanted makes the programme, in this order; undefined while it is made by what goes */
  readonly collecting: CollectingOrder | undefined;
  /** in order of time */
  readonly breaks: readonly Break[];
}

export const NO_LAYOUT: Layout = { removed: [], moves: [], collected: [], collecting: undefined, breaks: [] };

const LAYOUT_STEPS = ['recording', 'move', 'sendBack', 'collect', 'collecting', 'break', 'unbreak'] as const;
export type LayoutStep = Extract<DecisionEvent, { type: (typeof LAYOUT_STEPS)[number] }>;

export const isLayoutStep = (step: DecisionEvent): step is LayoutStep => (LAYOUT_STEPS as readonly string[]).includes(step.type);

/** The layout with a further step made. */
export function withLayoutStep(layout: Layout, step: LayoutStep): Layout {
  const { removed, moves, collected, breaks } = layout;
  switch (step.type) {
    case 'recording': {
      const others = removed.filter((id) => id !== step.recording);
      return { ...layout, removed: step.present ? others : [...others, step.recording] };
    }
    case 'move':
      return { ...layout, moves: [...moves, step] };
    case 'sendBack':
      return { ...layout, moves: moves.filter(({ id }) => id !== step.move) };
    case 'collect':
      return {
        ...layout,
        collected: step.wanted
          ? [...collected, ...subtract([step.about], collected)]
          : collected.flatMap((range) => subtract([range], [step.about])),
      };
    case 'collecting':
      return { ...layout, collecting: step.on ? step.order : undefined };
    case 'break':
      return {
        ...layout,
        breaks: [...breaks.filter(({ part }) => part !== step.part), step].sort((a, b) => a.at - b.at),
      };
    case 'unbreak':
      return { ...layout, breaks: breaks.filter(({ part }) => part !== step.part) };
  }
}
