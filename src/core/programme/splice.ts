import { codeToDbfs, LEVEL_RATE } from '../curves/level.ts';
import type { Material } from '../detect/detector.ts';
import type { PreparedPauses } from '../detect/sound/pauses.ts';
import { alignRows, type Columns } from '../detect/takes/columns.ts';
import { loudestIn } from '../detect/words/joining.ts';
import type { Spoken } from '../detect/words/spoken.ts';
import type { Range, Seconds } from '../time/range.ts';
import type { Word } from '../transcript/word.ts';
import { wordsIn } from '../transcript/wordsIn.ts';
import { measureSeam } from './risk.ts';

/** Where one attempt at a line is left, and another is gone on with. */
export interface Join {
  readonly out: Seconds;
  readonly into: Seconds;
}

/** Words either side of the one asked for among which the best place is looked for. */
const NEAR = 2;
/** Joined where only one of the words on either side is the same in both, or none: something may be said twice or not at all. */
const HALF_SAME = 4;
const NOT_SAME = 30;
/** What a word further away costs, in decibels of a level step. */
const A_WORD = 3;
/** A semitone and an edge inside a word, in decibels of a level step. */
const A_SEMITONE = 1.2;
const MID_WORD = 12;
/** Loudness counts as well: a join in silence is not heard at all. */
const LOUDNESS = 0.25;
/** A cut keeps this far at most from the words it is made between. */
const REACH: Seconds = 0.2;
const EDGE: Seconds = 0.015;

/**
 * The best place near a word to leave one attempt and go on with a later one: between two words that both say alike, where it
 * is quiet and where level and pitch go on as they were.
 * @param word index of the first word that is heard of the later attempt, or of the last that is heard of the earlier one
 * @returns undefined where the two have no such place
 */
export function bestJoin(
  prepared: PreparedPauses,
  material: Material,
  spoken: Spoken,
  left: Range,
  right: Range,
  word: number,
): Join | undefined {
  const sides = [wordsIn(spoken.words, left), wordsIn(spoken.words, right)] as const;
  const columns = alignRows(sides.map(([first, last]) => spoken.plain.slice(first, last)));
  const asked = boundaryAt(columns, sides, word);
  if (asked === undefined) return undefined;
  const loudest = loudestIn(material);
  let best: { join: Join; cost: number } | undefined;
  for (let boundary = asked - NEAR; boundary <= asked + NEAR; boundary++) {
    const edges = edgesAt(spoken.words, columns, sides, boundary);
    if (!edges) continue;
    const join = { out: quietest(loudest, edges.out), into: quietest(loudest, edges.into) };
    const { levelStep, roomStep, pitchStep, midWord } = measureSeam(
      prepared,
      { start: join.out, end: join.into },
      {
        ...material,
        words: spoken.words,
      },
    );
    const loud = codeToDbfs(levelAt(loudest, join.out)) + codeToDbfs(levelAt(loudest, join.into)) + 120;
    const cost =
      levelStep +
      roomStep +
      A_SEMITONE * (pitchStep ?? 0) +
      (midWord ? MID_WORD : 0) +
      LOUDNESS * Math.max(0, loud) +
      agreementAt(columns, sides, spoken.plain, boundary) +
      A_WORD * Math.abs(boundary - asked);
    if (!best || cost < best.cost) best = { join, cost };
  }
  return best?.join;
}

type Sides = readonly [left: readonly [number, number], right: readonly [number, number]];

/** The boundary before the column of a word of the later attempt, or behind that of a word of the earlier one. */
function boundaryAt(columns: Columns, [[left], [right]]: Sides, word: number): number | undefined {
  const inRight = columns.findIndex((column) => column[1] === word - right && word >= right);
  if (inRight >= 0) return inRight;
  const inLeft = columns.findIndex((column) => column[0] === word - left);
  return inLeft >= 0 ? inLeft + 1 : undefined;
}

/** What it costs that the two say other words on either side of a boundary. */
function agreementAt(columns: Columns, [[left], [right]]: Sides, plain: readonly string[], boundary: number): number {
  const same = [boundary - 1, boundary].filter((column) => {
    const [a, b] = columns[column] as readonly [number, number];
    return a >= 0 && b >= 0 && plain[left + a] === plain[right + b];
  }).length;
  return same === 2 ? 0 : same === 1 ? HALF_SAME : NOT_SAME;
}

/** Room for both cuts at a boundary: behind the last word of the earlier attempt, before the first of the later one. */
function edgesAt(
  words: readonly Word[],
  columns: Columns,
  [[left, leftEnd], [right]]: Sides,
  boundary: number,
): { out: Range; into: Range } | undefined {
  if (boundary < 1 || boundary >= columns.length) return undefined;
  const last = columns.slice(0, boundary).findLast((column) => (column[0] as number) >= 0)?.[0];
  const first = columns.slice(boundary).find((column) => (column[1] as number) >= 0)?.[1];
  if (last === undefined || first === undefined) return undefined;
  const [end, start] = [(words[left + last] as Word).end, (words[right + first] as Word).start];
  const next = left + last + 1 < leftEnd ? (words[left + last + 1] as Word).start : end + REACH;
  const before = first > 0 ? (words[right + first - 1] as Word).end : start - REACH;
  return {
    out: { start: end - EDGE, end: Math.max(end, Math.min(next + EDGE, end + REACH)) },
    into: { start: Math.min(start, Math.max(before - EDGE, start - REACH)), end: start + EDGE },
  };
}

const levelAt = (loudest: Uint8Array, at: Seconds): number => loudest[Math.round(at * LEVEL_RATE)] ?? 0;

/** The quietest moment of a stretch; of a long silence its middle. */
function quietest(loudest: Uint8Array, { start, end }: Range): Seconds {
  const from = Math.max(0, Math.round(start * LEVEL_RATE));
  const to = Math.max(from, Math.min(loudest.length - 1, Math.round(end * LEVEL_RATE)));
  let least = 255;
  for (let k = from; k <= to; k++) least = Math.min(least, loudest[k] as number);
  const quiet: number[] = [];
  for (let k = from; k <= to; k++) if ((loudest[k] as number) <= least + 2) quiet.push(k);
  return (quiet[quiet.length >> 1] ?? from) / LEVEL_RATE;
}
