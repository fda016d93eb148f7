import { memo, useLayoutEffect, useMemo, useRef } from 'react';
import type { SpeechCurve } from '@/core/curves/speech.ts';
import type { Section } from '@/core/detect/sections.ts';
import type { CutView, SeenProposal } from '@/core/programme/packing.ts';
import type { Programme } from '@/core/programme/programme.ts';
import { momentLabel } from '@/core/sources/recording.ts';
import { formatLength } from '@/core/time/clock.ts';
import type { Range } from '@/core/time/range.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import { beginsIn, layoutKey, type RowLayout } from './drawLayout.ts';
import { drawRow, type LitAttempt, ROW_HEIGHT, seenKey } from './drawRow.ts';
import type { Ink } from './ink.ts';
import type { PeakSource } from './peakSource.ts';
import { type RowPart, rowParts } from './rows.ts';
import { useWave } from './useWave.ts';

interface Props {
  readonly row: number;
  /** CSS pixels from the first row */
  readonly top: number;
  readonly width: number;
  readonly rowSeconds: number;
  readonly programme: Programme;
  readonly cut: CutView | undefined;
  /** what the row says to those who do not see it: it waits until a moving slider has come to rest */
  readonly described: CutView | undefined;
  readonly other: CutView | undefined;
  readonly otherIs: 'before' | 'beside';
  readonly sections: readonly Section[];
  readonly speech: SpeechCurve | undefined;
  readonly words: readonly Word[];
  readonly speakers: readonly string[];
  readonly peaks: PeakSource;
  readonly showsOut: boolean;
  readonly selection: Range | undefined;
  readonly focus: SeenProposal | undefined;
  /** a proposal as it is while an edge of it is pulled */
  readonly pulled: SeenProposal | undefined;
  /** words looked for, by index, and the one that is spoken while it lies in this row */
  readonly found: Uint8Array | undefined;
  readonly spoken: number;
  readonly attempts: readonly LitAttempt[];
  readonly layout: RowLayout;
  readonly ink: Ink;
}

/** One row of the score: its time at the left, and a canvas. */
export const ScoreRow = memo(function ScoreRow(props: Props) {
  const { row, top, width, rowSeconds, programme, cut, described, words, peaks, showsOut, selection, focus, ink } = props;
  const { other, otherIs, sections, speech, speakers, found, spoken, attempts, pulled, layout } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const parts = useMemo(() => rowParts(programme, row, rowSeconds), [programme, row, rowSeconds]);
  const wave = useWave(peaks, parts, width, rowSeconds, ink);

  // Most corrections and most letters of a search change few rows: a row looks at its own words alone.
  const mine = useSame(parts.flatMap((part) => words.slice(...wordsIn(words, part))));
  // A name stands where somebody else begins than spoke before the row.
  const [first] = parts;
  // At a seam somebody else may have been heard before than spoke there.
  const spoke = first && !first.seam ? words[wordsIn(words, first)[0] - 1]?.speaker : undefined;
  const marks = found && parts.map((part) => found.subarray(...wordsIn(words, part)).join('')).join(' ');
  const label = useMemo(
    () => describeRow(parts, words, speakers.length > 0, described, showsOut, layout),
    [parts, mine, speakers, described, showsOut, layout],
  );

  // Most steps of a slider change few rows: a row paints again when what it shows of the cut is another.
  const seen = seenKey(cut, parts, pulled);
  const seenOther = seenKey(other, parts);
  const focused = focus && `${focus.kind} ${focus.start} ${focus.end}`;
  const isHere = ({ start, end }: Range) => parts.some((part) => start < part.end && end > part.start);
  const selected = selection && isHere(selection) ? `${selection.start} ${selection.end}` : '';
  // Each decision makes new lists of these.
  const marked = sections
    .filter(({ about }) => isHere(about))
    .map(({ about }) => `${about.start} ${about.end}`)
    .join(';');
  const lit = attempts.filter(isHere);
  const litKey = lit
    .map(({ number, start, end, kept }) => [number, start, end, ...kept.flatMap((k) => [k.start, k.end])].join(' '))
    .join(';');
  const laid = layoutKey(layout, parts, showsOut);
  useLayoutEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const density = window.devicePixelRatio || 1;
    const [w, h] = [Math.round(width * density), Math.round(ROW_HEIGHT * density)];
    if (element.width !== w || element.height !== h) {
      element.width = w;
      element.height = h;
    }
    context.setTransform(density, 0, 0, density, 0, 0);
    const scene = { parts, width, rowSeconds, wave, words, speakers, spoke, cut, showsOut, selection, focus, pulled, ink };
    drawRow(context, { ...scene, other, otherIs, sections, speech, marks: { found, spoken }, attempts: lit, layout });
  }, [
    laid,
    litKey,
    marks,
    spoken,
    parts,
    width,
    rowSeconds,
    wave,
    mine,
    speakers,
    spoke,
    seen,
    seenOther,
    showsOut,
    selected,
    focused,
    ink,
    otherIs,
    marked,
    speech,
  ]);

  const start = parts[0]?.start ?? 0;
  // Each step of a slider renders all rows anew, and what stands round their canvases is the same.
  return useMemo(
    () => (
      <div className="absolute left-0 top-0 flex" style={{ height: ROW_HEIGHT, transform: `translateY(${top}px)` }}>
        <div className="tabular w-14 shrink-0 pt-[30px] pr-2 text-right text-xs quiet">
          {momentLabel(layout.recordings, start)}
        </div>
        <canvas ref={canvas} style={{ width, height: ROW_HEIGHT }} role="img" aria-label={label} />
      </div>
    ),
    [top, start, width, label, layout.recordings],
  );
});

/** The list before while the present one holds the very same things. */
function useSame<T>(list: readonly T[]): readonly T[] {
  const kept = useRef(list);
  const { current } = kept;
  if (current.length !== list.length || current.some((one, k) => one !== list[k])) kept.current = list;
  return kept.current;
}

/** A row in words, for those who do not see it. */
function describeRow(
  parts: readonly RowPart[],
  words: readonly Word[],
  isShared: boolean,
  cut: CutView | undefined,
  showsOut: boolean,
  { recordings, moves, breaks, pictures }: RowLayout,
): string {
  const isIn = (at: number, part: RowPart) => at >= part.start && at < part.end;
  const laid = parts.flatMap((part) => [
    ...[beginsIn(recordings, part)].flatMap((one) => (one ? [`${one.name} begins`] : [])),
    ...moves
      .filter(({ about }) => isIn(about.start, part))
      .map(({ about }) => `moved from ${momentLabel(recordings, about.start)}`),
    ...breaks.filter(({ at }) => isIn(at, part)).map(({ title }) => `part: ${title}`),
    ...pictures.filter(({ at }) => isIn(at, part)).map(({ name }) => `picture: ${name}`),
  ]);
  const said = parts.map((part) => {
    const [first, last] = wordsIn(words, part);
    const spoken = words.slice(first, last).map((word, k) => {
      const isTurn = isShared && word.speaker !== '' && word.speaker !== words[first + k - 1]?.speaker;
      return isTurn ? `${word.speaker}: ${word.text}` : word.text;
    });
    if (!cut || !showsOut) return spoken.join(' ');
    const [from, to] = cut.near(part);
    const marked: string[] = [];
    for (let k = from; k < to; k++) {
      if (cut.end(k) <= part.start) continue;
      const { kind, group, verdict, start, end } = cut.at(k);
      const what = kind === 'pause' ? '' : `${group ?? 'cut by hand'} `;
      marked.push(`${what}${formatLength(end - start)} ${verdict === 'out' ? 'out' : verdict === 'stay' ? 'stays' : 'open'}`);
    }
    return `${spoken.join(' ')}${marked.length > 0 ? `; marked: ${marked.join(', ')}` : ''}`;
  });
  const begin = momentLabel(recordings, parts[0]?.start ?? 0);
  return [`From ${begin}: ${said.join(' ') || 'no words'}`, ...laid].join('; ');
}
