/** How the line of a speaker is drawn: by form first, then by ink. */
export interface SpeakerLook {
  readonly thick: number;
  /** lengths of strokes and gaps; none for a whole line */
  readonly dash: readonly number[];
  readonly ink: 'kept' | 'out' | 'filler' | 'pause';
}

const FORMS = [
  [2, []],
  [2, [12, 4]],
  [2, [2, 3]],
  [4, []],
  [4, [12, 4]],
  [4, [2, 3]],
] as const;
/** Not the ink of what is done by hand: what was moved stands on a rail of it. */
const INKS = ['kept', 'out', 'filler', 'pause'] as const;

/** @param index of a speaker, in the order in which they are first heard */
export function speakerLook(index: number): SpeakerLook {
  const [thick, dash] = FORMS[index % FORMS.length] as (typeof FORMS)[number];
  return { thick, dash, ink: INKS[index % INKS.length] as (typeof INKS)[number] };
}
