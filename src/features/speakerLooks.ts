/** How the line of a speaker is drawn: by form first, then by ink. */
export interface SpeakerLook {
  readonly thick: number;
  /** lengths of strokes and gaps; none for a whole line */
  readonly dash: readonly number[];
  readonly ink: 'kept' | 'hand' | 'pause' | 'filler';
}

const FORMS = [
  [2, []],
  [2, [7, 3]],
  [2, [2, 3]],
  [4, []],
  [4, [7, 3]],
  [4, [2, 3]],
] as const;
const INKS = ['kept', 'hand', 'pause', 'filler'] as const;

/** @param index of a speaker, in the order in which they are first heard */
export function speakerLook(index: number): SpeakerLook {
  const [thick, dash] = FORMS[index % FORMS.length] as (typeof FORMS)[number];
  return { thick, dash, ink: INKS[index % INKS.length] as (typeof INKS)[number] };
}
