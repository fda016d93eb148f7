import { SPEECH_RATE, type SpeechCurve } from '@/core/curves/speech.ts';
import type { Section } from '@/core/detect/sections.ts';
import type { CutView, SeenProposal } from '@/core/programme/packing.ts';
import { type Range, subtract, union } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import { type BracketForm, KIND_LOOKS } from '../kindLooks.ts';
import {
  beginsIn,
  drawBeginning,
  drawBreaks,
  drawLifted,
  drawMoves,
  drawPictures,
  drawWanted,
  type RowLayout,
  type TakenLines,
} from './drawLayout.ts';
import { drawTurns } from './drawTurns.ts';
import { proposalsIn } from './edges.ts';
import type { Ink } from './ink.ts';
import type { RowPart } from './rows.ts';
import { countText, type RowText, rowText, WORD_LINE, WORDS_TOP, widthOf } from './rowText.ts';
import { type PaintedWave, WAVE_HEIGHT } from './wave.ts';

/** Lanes of a row from top to bottom, in CSS pixels. */
export const ROW_HEIGHT = 90;
export const BRACKET_LANE = 18;
const WAVE_TOP = 19;

export interface RowScene {
  readonly parts: readonly RowPart[];
  readonly width: number;
  readonly rowSeconds: number;
  readonly wave: PaintedWave;
  readonly words: readonly Word[];
  /** in the order in which they are first heard; none where one speaks alone */
  readonly speakers: readonly string[];
  /** who was heard last before the row */
  readonly spoke: string | undefined;
  readonly cut: CutView | undefined;
  /** another cut whose difference to this one is shown: as it was before the last move, or under other settings */
  readonly other: CutView | undefined;
  /** which of the two `other` is */
  readonly otherIs: 'before' | 'beside';
  /** ranges with settings of their own */
  readonly sections: readonly Section[];
  /** probability of speech, when it is to be seen */
  readonly speech: SpeechCurve | undefined;
  /** whether what is out is shown, struck */
  readonly showsOut: boolean;
  readonly selection: Range | undefined;
  readonly focus: SeenProposal | undefined;
  /** a proposal as it is while an edge of it is pulled */
  readonly pulled: SeenProposal | undefined;
  readonly marks: WordMarks;
  /** attempts at the line that the Takes tray shows */
  readonly attempts: readonly LitAttempt[];
  readonly layout: RowLayout;
  readonly ink: Ink;
}

/** An attempt that is lit, with what stays of it. */
export interface LitAttempt extends Range {
  readonly number: number;
  readonly kept: readonly Range[];
}

/** What is marked among the words. */
export interface WordMarks {
  /** 1 for a word that is looked for, 2 for the place that is looked at; left out when nothing is */
  readonly found: Uint8Array | undefined;
  /** index of the word being spoken, -1 for none */
  readonly spoken: number;
}

/** Paints one row: what is kept in solid ink, what is out hollow and hatched, brackets over it, words under it. */
export function drawRow(c: CanvasRenderingContext2D, scene: RowScene): void {
  const { parts, width, rowSeconds, ink } = scene;
  const scale = width / rowSeconds;
  c.clearRect(0, 0, width, ROW_HEIGHT);
  c.fillStyle = ink.staff;
  c.fillRect(0, WAVE_TOP + WAVE_HEIGHT / 2 - 0.5, width, 1);
  const allOut: Range[] = [];
  const taken: TakenLines = [];
  const text = rowText(scene);
  let { spoke } = scene;
  for (const part of parts) {
    const toX = (at: number) => (part.x + at - part.start) * scale;
    const seen = scene.cut ? proposalsIn(scene.cut, part, scene.pulled) : [];
    const out = scene.showsOut ? outIn(seen, part, scene.layout) : [];
    drawWash(c, scene, part, toX);
    drawSections(c, scene, part, toX);
    drawWave(c, scene, part, toX, out);
    if (scene.speech) drawSpeech(c, scene.speech, ink, part, toX);
    for (const proposal of seen) drawProposal(c, scene, proposal, part, toX);
    if (scene.other) drawDifference(c, scene, seen, part, toX);
    drawAttempts(c, scene, part, toX);
    const { layout, showsOut } = scene;
    drawWanted(c, layout, ink, part, toX);
    allOut.push(...out);
    if (part.seam && !beginsIn(layout.recordings, part)) drawSeam(c, toX(part.start), ink);
    drawBeginning(c, layout, ink, part, toX, ROW_HEIGHT, taken);
    drawMoves(c, layout, ink, part, toX, !showsOut, taken);
    drawBreaks(c, layout, ink, part, toX, ROW_HEIGHT, taken);
    drawPictures(c, layout, ink, part, toX, ROW_HEIGHT, taken);
    drawLifted(c, layout, ink, part, toX, ROW_HEIGHT);
    if (scene.speakers.length > 0) {
      const [first, last] = wordsIn(scene.words, part);
      const words = scene.words.slice(first, last);
      drawTurns(c, { words, spoke, speakers: scene.speakers, text, width }, ink, part, toX, taken);
      spoke = words.at(-1)?.speaker ?? spoke;
    }
  }
  drawWords(c, scene, text, allOut);
}

/** What is out of a part: by a verdict, or because it is not wanted. In order of time. */
function outIn(seen: readonly SeenProposal[], part: Range, { collecting, wanted }: RowLayout): readonly Range[] {
  const out = seen.filter((proposal) => proposal.verdict === 'out');
  return collecting ? union([...out, ...subtract([part], wanted)]) : out;
}

/** What a row shows of a cut, as text that is the same when the row would look the same. */
export const seenKey = (cut: CutView | undefined, parts: readonly RowPart[], pulled?: SeenProposal): string =>
  cut
    ? parts
        .flatMap((part) => proposalsIn(cut, part, pulled))
        .map(({ kind, start, end, found, verdict, treatment }) =>
          [kind, start, end, found.start, found.end, verdict, treatment].join(' '),
        )
        .join(';')
    : '';

type ToX = (at: number) => number;

function drawWash(
  c: CanvasRenderingContext2D,
  { selection, focus, pulled, attempts, ink }: RowScene,
  part: RowPart,
  toX: ToX,
): void {
  const wash = (range: Range, colour: string) => {
    const from = Math.max(part.start, range.start);
    const to = Math.min(part.end, range.end);
    if (to <= from) return;
    c.fillStyle = colour;
    c.fillRect(toX(from), 0, toX(to) - toX(from), ROW_HEIGHT);
  };
  for (const attempt of attempts) wash(attempt, ink.focus);
  const looked = pulled ?? focus;
  if (looked) wash(looked, ink.focus);
  if (selection) wash(selection, ink.select);
}

/** Marked ranges are ruled off at their ends, over the whole height of the row, with a thin line along the top. */
function drawSections(c: CanvasRenderingContext2D, { sections, ink }: RowScene, part: RowPart, toX: ToX): void {
  c.fillStyle = ink.hand;
  for (const { about } of sections) {
    const from = Math.max(part.start, about.start);
    const to = Math.min(part.end, about.end);
    if (to <= from) continue;
    c.fillRect(toX(from), 1, toX(to) - toX(from), 1.5);
    if (about.start >= part.start) c.fillRect(toX(from), 1, 2, ROW_HEIGHT - 4);
    if (about.end <= part.end) c.fillRect(toX(to) - 2, 1, 2, ROW_HEIGHT - 4);
  }
}

/** Attempts stand on a rail under their words, numbered where they begin: solid where they stay, hollow where they go. */
function drawAttempts(c: CanvasRenderingContext2D, { attempts, ink }: RowScene, part: RowPart, toX: ToX): void {
  const within = ({ start, end }: Range) => [toX(Math.max(part.start, start)), toX(Math.min(part.end, end))] as const;
  for (const attempt of attempts) {
    const [left, right] = within(attempt);
    if (right <= left) continue;
    box(c, left, RAIL_TOP, right - left, RAIL_HEIGHT, ink, false);
    for (const range of attempt.kept) {
      const [from, to] = within({ start: Math.max(range.start, attempt.start), end: Math.min(range.end, attempt.end) });
      if (to > from) box(c, from, RAIL_TOP, to - from, RAIL_HEIGHT, ink, true);
    }
    const stays = attempt.kept.length > 0;
    box(c, left, WAVE_TOP + 1, 13, 14, ink, stays);
    c.font = `bold ${ink.timeFont}`;
    c.textBaseline = 'middle';
    c.fillStyle = stays ? ink.paper : ink.hand;
    c.fillText(String(attempt.number), left + 3, WAVE_TOP + 9);
  }
}

function box(
  c: CanvasRenderingContext2D,
  ...[x, y, width, height, ink, solid]: readonly [number, number, number, number, Ink, boolean]
): void {
  c.fillStyle = solid ? ink.hand : ink.paper;
  c.fillRect(x, y, width, height);
  c.strokeStyle = ink.hand;
  c.lineWidth = 1;
  c.strokeRect(x + 0.5, y + 0.5, Math.max(1, width - 1), height - 1);
}

const RAIL_TOP = 81;
const RAIL_HEIGHT = 4;

/** The probability of speech as a line along the staff: low on it nobody speaks, high somebody does. */
function drawSpeech(c: CanvasRenderingContext2D, { codes }: SpeechCurve, ink: Ink, part: RowPart, toX: ToX): void {
  c.strokeStyle = ink.playhead;
  c.lineWidth = 1;
  c.beginPath();
  const first = Math.floor(part.start * SPEECH_RATE);
  const last = Math.min(codes.length, Math.ceil(part.end * SPEECH_RATE));
  for (let k = first; k < last; k++) {
    const x = toX(Math.max(part.start, Math.min(part.end, (k + 0.5) / SPEECH_RATE)));
    const y = WAVE_TOP + WAVE_HEIGHT - ((codes[k] as number) / 255) * WAVE_HEIGHT;
    if (k === first) c.moveTo(x, y);
    else c.lineTo(x, y);
  }
  c.stroke();
}

/**
 * What a move or another set adds and takes away: proposals that are new stand on a solid bar, those that are gone leave
 * an empty one. Beside another set it is the other way round: solid is what the other would take as well.
 */
function drawDifference(
  c: CanvasRenderingContext2D,
  { cut, other, otherIs, ink }: RowScene,
  seen: readonly SeenProposal[],
  part: RowPart,
  toX: ToX,
): void {
  if (!cut || !other) return;
  const were = proposalsIn(other, part);
  const here = seen.filter((proposal) => !other.same(proposal));
  const there = were.filter((proposal) => !cut.same(proposal));
  const [added, gone] = otherIs === 'before' ? [here, there] : [there, here];
  const bar = ({ start, end }: Range, solid: boolean) => {
    const left = toX(Math.max(part.start, start));
    const width = Math.max(3, toX(Math.min(part.end, end)) - left);
    if (solid) {
      c.fillStyle = ink.playhead;
      c.fillRect(left, 0, width, 4);
    } else {
      c.strokeStyle = ink.playhead;
      c.lineWidth = 1;
      c.strokeRect(left + 0.5, 0.5, width - 1, 3);
    }
  };
  for (const proposal of added) bar(proposal, true);
  for (const proposal of gone) bar(proposal, false);
}

/** What stays from the full waves, what is out from the hollow ones, hatched. */
function drawWave(c: CanvasRenderingContext2D, scene: RowScene, part: RowPart, toX: ToX, out: readonly Range[]): void {
  const { wave, width } = scene;
  const from = Math.max(0, Math.floor(toX(part.start)));
  const to = Math.min(Math.ceil(toX(part.end)), Math.ceil(width));
  let at = from;
  for (const proposal of out) {
    const start = Math.max(at, Math.min(to, Math.round(toX(proposal.start))));
    const end = Math.max(start, Math.min(to, Math.round(toX(proposal.end))));
    wave.put(c, 'full', at, start, WAVE_TOP);
    wave.put(c, 'hollow', start, end, WAVE_TOP);
    at = end;
  }
  wave.put(c, 'full', at, to, WAVE_TOP);
}

/** Kinds differ by the form of their bracket first: square for a pause, slanted with a notch for a cut by hand. */
function drawProposal(c: CanvasRenderingContext2D, scene: RowScene, proposal: SeenProposal, part: RowPart, toX: ToX): void {
  const { ink, showsOut } = scene;
  if (!showsOut && proposal.verdict === 'out') return;
  const left = toX(Math.max(part.start, proposal.start));
  const right = toX(Math.min(part.end, proposal.end));
  if (right < left) return;
  const startsHere = proposal.start >= part.start;
  const endsHere = proposal.end <= part.end;
  c.strokeStyle = inkOf(proposal, ink);
  c.lineWidth = scene.focus?.index === proposal.index ? 2.5 : 1.5;
  c.setLineDash(proposal.verdict === 'open' ? [4, 3] : []);
  c.beginPath();
  if (proposal.verdict === 'stay') {
    const y = WAVE_TOP + WAVE_HEIGHT + 1;
    c.moveTo(left, y);
    c.lineTo(right, y);
  } else {
    traceBracket(
      c,
      KIND_LOOKS[proposal.kind].bracket,
      startsHere ? left + 0.75 : undefined,
      endsHere ? right - 0.75 : undefined,
      left,
      right,
    );
  }
  c.stroke();
  c.setLineDash([]);
  drawLabel(c, scene, proposal, left, right);
}

const inkOf = ({ kind }: SeenProposal, ink: Ink): string => ink[KIND_LOOKS[kind].ink];

/**
 * The form of a bracket: square legs for a pause, slanted ones for a cut by hand, slanted outwards for what was not said to the
 * listener, round shoulders for a filler, double legs for a repeat, a double bar for an attempt. A side that lies in another row
 * has no leg.
 */
function traceBracket(
  c: CanvasRenderingContext2D,
  form: BracketForm,
  legLeft: number | undefined,
  legRight: number | undefined,
  left: number,
  right: number,
): void {
  const slant = form === 'inward' ? 4 : form === 'outward' ? -4 : 0;
  const round = form === 'round' ? Math.min(7, (right - left) / 2) : 0;
  if (legLeft !== undefined) {
    c.moveTo(legLeft, BRACKET_LANE);
    if (round > 0) c.quadraticCurveTo(legLeft, 5, legLeft + round, 5);
    else c.lineTo(legLeft + slant, 5);
  } else c.moveTo(left, 5);
  if (legRight !== undefined) {
    c.lineTo(legRight - Math.max(slant, round), 5);
    if (round > 0) c.quadraticCurveTo(legRight, 5, legRight, BRACKET_LANE);
    else c.lineTo(legRight, BRACKET_LANE);
  } else c.lineTo(right, 5);
  if (form === 'doubleBar') {
    c.moveTo(left + 1, 9);
    c.lineTo(right - 1, 9);
  }
  if (form !== 'doubleLeg') return;
  for (const leg of [legLeft === undefined ? undefined : legLeft + 3, legRight === undefined ? undefined : legRight - 3]) {
    if (leg === undefined) continue;
    c.moveTo(leg, 5);
    c.lineTo(leg, BRACKET_LANE);
  }
}

/** Middles of labels: clear of the second bar of an attempt that lies over them. */
const LABEL_MIDDLE = 14.5;
const STAYING_LABEL_MIDDLE = 12;

/** What is not simply taken out says so before its length. */
const TREATMENT_SIGNS = { remove: '', shorten: '›‹ ', hurry: '≫ ', hole: '▯ ' } as const;

function drawLabel(c: CanvasRenderingContext2D, { ink }: RowScene, proposal: SeenProposal, left: number, right: number): void {
  const text = `${TREATMENT_SIGNS[proposal.treatment]}${KIND_LOOKS[proposal.kind].label(proposal)}`;
  const width = widthOf(text, ink, 'timeFont');
  if (right - left < width + 10) return;
  c.font = ink.timeFont;
  c.fillStyle = inkOf(proposal, ink);
  c.textAlign = 'center';
  c.textBaseline = 'middle';
  c.fillText(text, (left + right) / 2, proposal.verdict === 'stay' ? STAYING_LABEL_MIDDLE : LABEL_MIDDLE);
  c.textAlign = 'left';
}

/** The words as text under their moments, with ticks where text and sound part. */
function drawWords(c: CanvasRenderingContext2D, scene: RowScene, text: RowText, out: readonly Range[]): void {
  const { ink, marks } = scene;
  c.font = ink.wordFont;
  c.textBaseline = 'alphabetic';
  for (const { at, x, line, squeeze } of text.words) {
    const { word, index, from, width: natural } = text.spoken[at] as RowText['spoken'][number];
    const middle = (word.start + word.end) / 2;
    const isOut = out.some(({ start, end }) => start <= middle && middle < end);
    const width = natural * squeeze;
    const baseline = WORDS_TOP + 11 + line * WORD_LINE;
    const isApart = Math.abs(x - from) > TICK_FROM || line === 1;
    // What is selected is washed at its moment; a word that stands apart from it is washed as well.
    if (isApart && scene.selection && scene.selection.start <= middle && middle < scene.selection.end) {
      c.fillStyle = ink.select;
      c.fillRect(x - 2, baseline - 12, width + 4, 15);
    }
    markWord(c, word, marks.found?.[index] ?? 0, marks.spoken === index, ink, x, baseline, width);
    if (isApart) drawTick(c, ink, from, line === 0 ? x : undefined);
    c.fillStyle = isOut ? ink.out : ink.kept;
    if (squeeze === 1) c.fillText(word.text, x, baseline);
    else {
      c.save();
      c.translate(x, baseline);
      c.scale(squeeze, 1);
      c.fillText(word.text, 0, 0);
      c.restore();
    }
    if (isOut) c.fillRect(x, baseline - 4, width, 1);
  }
  c.font = ink.timeFont;
  c.fillStyle = ink.out;
  for (const x of text.folded) c.fillRect(Math.max(0, x - 4), WORDS_TOP + 1, 1, 2 * WORD_LINE - 3);
  for (const { x, count } of text.leftOut) c.fillText(countText(count), x, WORDS_TOP + 11);
}

/** A word further than this from its moment is tied to it. */
const TICK_FROM = 16;

/** A tick under the moment of a word, and a thread to the word where it stands right below. */
function drawTick(c: CanvasRenderingContext2D, ink: Ink, moment: number, wordX: number | undefined): void {
  c.strokeStyle = ink.hatch;
  c.lineWidth = 1;
  c.beginPath();
  c.moveTo(moment, WORDS_TOP - 4);
  c.lineTo(moment, WORDS_TOP - 1);
  if (wordX !== undefined) c.lineTo(wordX + 2, WORDS_TOP + 2);
  c.stroke();
}

/** What is spoken, what is looked for, and, quietly, what may be misheard. */
function markWord(
  c: CanvasRenderingContext2D,
  { confidence }: Word,
  found: number,
  spoken: boolean,
  ink: Ink,
  left: number,
  baseline: number,
  width: number,
): void {
  if (found > 0) {
    c.strokeStyle = ink.filler;
    c.lineWidth = found === 2 ? 2 : 1;
    c.strokeRect(left - 2, baseline - 12, width + 4, 15);
  }
  if (spoken) {
    c.fillStyle = ink.spoken;
    c.fillRect(left - 2, baseline - 12, width + 4, 15);
  }
  if (confidence < UNSURE) {
    c.fillStyle = ink.staff;
    c.fillRect(left, baseline + 2, width, confidence < UNSURE / 2 ? 2 : 1);
  }
}

/** Words under this are quietly underlined. */
const UNSURE = 0.7;

function drawSeam(c: CanvasRenderingContext2D, x: number, ink: Ink): void {
  c.fillStyle = ink.pause;
  c.beginPath();
  c.moveTo(x - 4, 6);
  c.lineTo(x + 4, 6);
  c.lineTo(x, 13);
  c.fill();
  c.fillRect(x - 0.5, 13, 1, WAVE_TOP + WAVE_HEIGHT - 13);
}
