import type { DecisionEvent } from '../../decisions/event.ts';
import type { Range, Seconds } from '../../time/range.ts';

type WithoutId<T> = T extends unknown ? Omit<T, 'id'> : never;
/** A decision before it has a name of its own. */
export type Step = WithoutId<Extract<DecisionEvent, { type: 'verdict' | 'edge' | 'cut' | 'move' | 'angle' }>>;

/** What an editor changed, in general words. */
export const CHANGE_KINDS = [
  'opened',
  'closed',
  'undone',
  'restored',
  'taken out',
  'moved',
  'repeated',
  'speed',
  'picture',
  'added',
] as const;
export type ChangeKind = (typeof CHANGE_KINDS)[number];

/** One thing that an editor changed; ranges are of the episode clock. */
export interface Change {
  readonly kind: ChangeKind;
  /** what of the recording it is about; for what is not of any, where it lies on the timeline */
  readonly about: Range;
  /** frames of the edited timeline that were opened, or closed where negative: after the words before the seam, and before those behind */
  readonly after: number;
  readonly before: number;
  /** frames of the edited timeline that it makes longer, or shorter where negative */
  readonly frames: number;
  /** of what is not of the episode, or of the file whose picture is seen instead */
  readonly name?: string;
  /** what that picture is named by as an angle */
  readonly angle?: string;
  /** where a passage went: before what stands at a moment of the clock, or after what ends there */
  readonly to?: { readonly at: Seconds; readonly side: 'before' | 'after' };
  /** decisions that would do the same here; none where no decision can */
  readonly steps: readonly Step[];
}

/** What an edited timeline came to, next to what was handed over. */
export interface Comparison {
  readonly format: string;
  /** joins where something was taken out */
  readonly seams: number;
  readonly changes: readonly Change[];
  /** seconds of the timeline that was handed over, and of the edited one */
  readonly lengthBefore: Seconds;
  readonly lengthAfter: Seconds;
  readonly frameSeconds: Seconds;
  /** air to set so that what was opened would be open everywhere; left out where it would change nothing */
  readonly air: { readonly airAfter?: Seconds; readonly airBefore?: Seconds };
}
