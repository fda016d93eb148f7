import { LEVEL_HOP, LEVEL_RATE, type LevelCurve } from '../../curves/level.ts';
import type { Range, Seconds } from '../../time/range.ts';
import type { Word } from '../../transcript/word.ts';
import type { Material } from '../detector.ts';
import type { Settings } from '../settings.ts';

/** Level of the loudest track at each moment. */
export type Loudest = Uint8Array;

/** The same of a material, which may know it: three hours are a million samples a track, and several detectors ask. */
export const loudestIn = ({ levels, loudest }: Pick<Material, 'levels' | 'loudest'>): Loudest => loudest?.() ?? loudestOf(levels);

export function loudestOf(levels: readonly LevelCurve[]): Loudest {
  const [only, ...more] = levels;
  if (only && more.length === 0) return only.codes;
  const loudest = new Uint8Array(Math.max(0, ...levels.map(({ codes }) => codes.length)));
  for (const { codes } of levels)
    for (let k = 0; k < codes.length; k++) if ((codes[k] as number) > (loudest[k] as number)) loudest[k] = codes[k] as number;
  return loudest;
}

/** What stands on either side of words that go. */
export interface Beside {
  /** end of the word before, start of the word after */
  readonly before: Seconds;
  readonly after: Seconds;
  readonly naturalGap: Seconds;
}

/** Between which moments neither of the words beside is said, as far as their times are known. */
export const sureOfOthers = (
  word: Word | undefined,
  next: Word | undefined,
  duration: Seconds,
): Pick<Beside, 'before' | 'after'> => ({
  before: word ? word.end + (word.error ?? 0) : 0,
  after: next ? next.start - (next.error ?? 0) : duration,
});

/** An edge looks this far for a quiet moment: into silence, and into what goes. */
const REACH_OUT: Seconds = 0.04;
const REACH_IN: Seconds = 0.02;
/** Word times are known to so much: where words touch, the edge may lie this far in the neighbour. */
const TOUCH: Seconds = 0.01;
/** Half steps of the level that are worth moving for. */
const WORTH = 4;
/** What a pause leaves beside words that go is taken a little further, so that no rest of it stays. */
const MARGIN: Seconds = 0.02;

/**
 * What is taken when words go, so that one natural gap is left of the silences beside them. A long silence is a pause of
 * its own that leaves air next to the words: this air goes with them. Short ones go as far as the two together are longer
 * than this speaker's natural gap. Each edge moves to the quietest moment near, never into a neighbour.
 */
export function joinAround(found: Range, beside: Beside, loudest: Loudest, settings: Settings): Range {
  const before = Math.min(beside.before, found.start);
  const after = Math.max(beside.after, found.end);
  const [left, right] = [found.start - before, after - found.end];
  const longLeft = left >= settings.minPause;
  const longRight = right >= settings.minPause;
  let takeLeft = 0;
  let takeRight = 0;
  if (longLeft || longRight) {
    if (longLeft) takeLeft = settings.airBefore + MARGIN;
    else if (longRight) takeLeft = Math.max(0, left - settings.airAfter);
    if (longRight) takeRight = settings.airAfter + MARGIN;
    else if (longLeft) takeRight = Math.max(0, right - settings.airBefore);
  } else {
    const over = Math.max(0, left + right - beside.naturalGap);
    takeLeft = left + right > 0 ? (over * left) / (left + right) : 0;
    takeRight = over - takeLeft;
  }
  const start = Math.max(before, found.start - takeLeft);
  const end = Math.min(after, found.end + takeRight);
  return {
    start: quietest(
      loudest,
      start,
      Math.max(before - (left > 0 ? 0 : TOUCH), start - REACH_OUT),
      Math.min(found.start + REACH_IN, end),
    ),
    end: quietest(
      loudest,
      end,
      Math.max(start, found.end - REACH_IN),
      Math.min(after + (right > 0 ? 0 : TOUCH), end + REACH_OUT),
    ),
  };
}

/** The quietest moment of a stretch; the one asked for unless another is clearly quieter. */
function quietest(loudest: Loudest, asked: Seconds, from: Seconds, to: Seconds): Seconds {
  const levelAt = (at: Seconds) => loudest[Math.min(loudest.length - 1, Math.max(0, Math.floor(at * LEVEL_RATE)))] ?? 0;
  let best = asked;
  let least = levelAt(asked) - WORTH;
  for (let step = 1; step * LEVEL_HOP <= Math.max(asked - from, to - asked) + 1e-9; step++)
    for (const at of [asked - step * LEVEL_HOP, asked + step * LEVEL_HOP])
      if (at >= from - 1e-9 && at <= to + 1e-9 && levelAt(at) < least) [best, least] = [at, levelAt(at) - WORTH];
  return Math.round(best * 1000) / 1000;
}
