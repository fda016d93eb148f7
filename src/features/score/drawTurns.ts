import { overlapsOf, turnsOf } from '@/core/speakers/turns.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { speakerLook } from '../speakerLooks.ts';
import { label, shortened, type TakenLines, write } from './drawLayout.ts';
import type { Ink } from './ink.ts';
import type { RowPart } from './rows.ts';
import { type RowText, widthOf } from './rowText.ts';

/** The lane under the words in which it stands who speaks, in CSS pixels from the top of a row. */
const LANE_TOP = 86;
const LANE_HEIGHT = 4;
const MOST_SIGNS = 14;
/** Middle of the second line of the text, on which names are written, and the room after one. */
const NAME_MIDDLE = 77;
const NAME_GAP = 8;

/** What is said in a part of a row. */
export interface SaidHere {
  readonly words: readonly Word[];
  /** who was heard last before them */
  readonly spoke: string | undefined;
  /** all of the episode, in the order in which they are first heard */
  readonly speakers: readonly string[];
  /** how the words of the row are set */
  readonly text: RowText;
  /** of the row, in CSS pixels */
  readonly width: number;
}

/**
 * Who speaks: a line under each turn, in the form of its speaker, the name where another one begins, and a hatched bar where two speak at once. A
 * name stands on the second line of the text where that is free, and over the waves otherwise.
 */
export function drawTurns(
  c: CanvasRenderingContext2D,
  { words, spoke, speakers, text, width }: SaidHere,
  ink: Ink,
  part: RowPart,
  toX: (at: Seconds) => number,
  taken: TakenLines,
): void {
  const within = ({ start, end }: Range) => [toX(Math.max(part.start, start)), toX(Math.min(part.end, end))] as const;
  let last = spoke;
  let written = 0;
  for (const turn of turnsOf(words)) {
    const [left, right] = within(turn);
    if (right <= left) continue;
    strokeSpeaker(c, ink, speakers.indexOf(turn.speaker), left, right);
    if (turn.speaker !== last && turn.speaker !== '') {
      const name = shortened(turn.speaker, MOST_SIGNS);
      const size = widthOf(name, ink, 'timeFont') + NAME_GAP;
      const at = Math.max(0, Math.min(left, width - size));
      if (at >= written && isFree(text, at, at + size)) {
        written = at + size;
        write(c, name, at + 2, NAME_MIDDLE, ink.out, ink);
      } else label(c, name, at + 2, ink.out, ink, taken);
    }
    last = turn.speaker;
  }
  c.lineWidth = 1;
  for (const range of overlapsOf(words)) {
    const [left, right] = within(range);
    if (right <= left) continue;
    c.fillStyle = ink.paper;
    c.fillRect(left, LANE_TOP, right - left, LANE_HEIGHT);
    c.strokeStyle = ink.kept;
    c.beginPath();
    for (let x = left; x < right; x += 3) {
      c.moveTo(x, LANE_TOP + LANE_HEIGHT);
      c.lineTo(Math.min(right, x + LANE_HEIGHT), LANE_TOP);
    }
    c.stroke();
  }
}

function strokeSpeaker(c: CanvasRenderingContext2D, ink: Ink, index: number, from: number, to: number): void {
  const look = speakerLook(index);
  c.strokeStyle = ink[look.ink];
  c.lineWidth = look.thick;
  c.setLineDash([...look.dash]);
  c.beginPath();
  c.moveTo(from, LANE_TOP + LANE_HEIGHT / 2);
  c.lineTo(to, LANE_TOP + LANE_HEIGHT / 2);
  c.stroke();
  c.setLineDash([]);
}

/** Whether no word stands on the second line between two places. */
const isFree = ({ words, spoken }: RowText, from: number, to: number): boolean =>
  !words.some(({ at, x, line, squeeze }) => line === 1 && x < to && x + (spoken[at]?.width ?? 0) * squeeze > from);
