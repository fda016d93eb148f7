import { LEVEL_RATE, type LevelCurve } from '../curves/level.ts';
import type { Measured } from '../curves/measures.ts';
import type { Echo } from '../curves/repeatedPassages.ts';
import type { Seconds } from '../time/range.ts';
import { shiftRange } from './shift.ts';

/** What is measured of one recording, in its own time. A measure is left out while it is not made; see MEASURES for what each is. */
export interface Sound extends Measured {
  readonly duration: Seconds;
  /** level of each track */
  readonly levels: readonly LevelCurve[];
}

/** What is measured of a recording, and where it begins on the episode clock. */
export interface PlacedSound {
  readonly id: string;
  readonly place: Seconds;
  readonly sound: Sound;
  /** what in it sounds like something in recordings before it, as far as they were compared */
  readonly across?: readonly Across[];
}

/** Echoes from one recording to a later one: each left stretch in the time of the earlier, each right one in that of the later. */
export interface Across {
  /** the earlier recording */
  readonly from: string;
  readonly echoes: readonly Echo[];
}

/** Levels of all recordings on one clock, digital silence between them and where a recording has fewer tracks. */
export function levelsOnClock(placed: readonly PlacedSound[]): LevelCurve[] {
  const length = Math.max(...placed.map(({ place, sound }) => Math.ceil((place + sound.duration) * LEVEL_RATE)));
  return Array.from({ length: Math.max(...placed.map(({ sound }) => sound.levels.length)) }, (_, track) => {
    const codes = new Uint8Array(length);
    for (const { place, sound } of placed) {
      const own = sound.levels[track]?.codes.subarray(0, Math.ceil(sound.duration * LEVEL_RATE));
      if (own) codes.set(own.subarray(0, length - place * LEVEL_RATE), place * LEVEL_RATE);
    }
    return { codes };
  });
}

/** Echoes inside each recording and from one to the next. */
export const echoesOnClock = (placed: readonly PlacedSound[]): Echo[] =>
  placed.flatMap(({ place, sound: { echoes = [] }, across = [] }) => [
    ...echoes.map((echo) => shiftEcho(echo, place, place)),
    ...across.flatMap(({ from, echoes }) => {
      const earlier = placed.find(({ id }) => id === from);
      return earlier ? echoes.map((echo) => shiftEcho(echo, earlier.place, place)) : [];
    }),
  ]);

/** Each side of an echo moved along the time axis by its own. */
export const shiftEcho = ({ left, right, path, ...rest }: Echo, byLeft: Seconds, byRight: Seconds): Echo => ({
  ...rest,
  left: shiftRange(left, byLeft),
  right: shiftRange(right, byRight),
  path: path.map((step) => ({ ...step, left: step.left + byLeft, right: step.right + byRight })),
});
