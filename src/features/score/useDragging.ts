import {
  type MouseEvent as ReactMouseEvent,
  type PointerEvent as ReactPointerEvent,
  type RefObject,
  useEffect,
  useRef,
  useState,
} from 'react';
import type { SeenProposal } from '@/core/programme/packing.ts';
import type { Range, Seconds } from '@/core/time/range.ts';
import { withEdgeAt } from '../episode/review/review.ts';
import { select, selectSentence, wholeWords, wordAt } from '../episode/review/wordActions.ts';
import { clockEnd } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { BRACKET_LANE, ROW_HEIGHT } from './drawRow.ts';
import { type Edge, edgeNear } from './edges.ts';
import { type RowPart, rowParts, timeInRow } from './rows.ts';

const ROW_GAP = 6;
/** From the top of one row to that of the next, and the width of the times at the left of the rows, in CSS pixels. */
export const PITCH = ROW_HEIGHT + ROW_GAP;
export const GUTTER = 56;
const WORDS_LANE = 54;
const DRAG_PIXELS = 4;
/** How near to the leg of a bracket takes hold of it. */
const GRIP_PIXELS = 6;

/** Where in the score: the moment, how far down in its row, and what the row holds. */
interface Place {
  readonly at: Seconds;
  readonly lane: number;
  readonly parts: readonly RowPart[];
}

interface Drag extends Place {
  readonly x: number;
  readonly y: number;
  readonly edge: Edge | undefined;
  moved: boolean;
}

/**
 * Clicks and drags: over sound and over words they are the same act, a stretch of time; the legs of brackets can be pulled.
 * @returns what to hang on the scroller, and a proposal as it is while its edge is pulled
 */
export function useDragging(scroller: RefObject<HTMLDivElement | null>, width: number) {
  const model = useModel();
  const cut = useEpisode((s) => s.cut);
  const start = useRef<Drag>(undefined);
  const [pulled, setPulled] = useState<SeenProposal>();

  // What was let go stays as it was pulled until the cut that holds it is there.
  useEffect(() => {
    if (!start.current) setPulled(undefined);
  }, [cut]);

  useEffect(() => {
    if (!pulled) return;
    const giveUp = (event: KeyboardEvent) => {
      if (event.key !== 'Escape' || !start.current) return;
      event.stopPropagation();
      start.current = undefined;
      setPulled(undefined);
    };
    window.addEventListener('keydown', giveUp, { capture: true });
    return () => window.removeEventListener('keydown', giveUp, { capture: true });
  }, [pulled]);

  const locate = (event: { readonly clientX: number; readonly clientY: number }): Place => {
    const box = scroller.current?.getBoundingClientRect();
    const y = event.clientY - (box?.top ?? 0) + (scroller.current?.scrollTop ?? 0);
    const { rowSeconds } = model.state;
    const row = Math.max(0, Math.floor(y / PITCH));
    const x = Math.max(0, Math.min(width, event.clientX - (box?.left ?? 0) - GUTTER));
    const parts = rowParts(model.readingProgramme(), row, rowSeconds);
    return { at: timeInRow(parts, (x / width) * rowSeconds), lane: y - row * PITCH, parts };
  };

  /** The edge that can be taken hold of: where what is out is not shown, there is nothing to pull. */
  const edgeAt = ({ at, lane, parts }: Place): Edge | undefined => {
    const { reading, rowSeconds } = model.state;
    if (!model.state.cut || reading !== 'recorded' || lane >= BRACKET_LANE) return undefined;
    return edgeNear(model.state.cut, parts, at, (GRIP_PIXELS / width) * rowSeconds);
  };

  const showGrip = (edge: Edge | undefined) => {
    if (scroller.current) scroller.current.style.cursor = edge ? 'ew-resize' : 'text';
  };

  const pull = ({ proposal, side }: Edge, at: Seconds): void => {
    const range = withEdgeAt(proposal, side, at, clockEnd(model.state.recordings));
    setPulled({ ...proposal, ...range });
    model.show({ selection: undefined, focus: { kind: proposal.kind, found: proposal.found } });
  };

  const selectUpTo = (from: Range, lane: number): void =>
    model.show({ selection: lane >= WORDS_LANE ? wholeWords(from, model.state.words) : from });

  return {
    pulled,
    /** Twice on a word selects it, three times its sentence. */
    onClick(event: ReactMouseEvent) {
      if (event.detail < 2 || model.state.words.length === 0) return;
      const { at, lane } = locate(event);
      if (lane < BRACKET_LANE) return;
      const word = wordAt(model.state.words, at);
      select(model, word, word + 1);
      if (event.detail >= 3) selectSentence(model);
    },
    onPointerDown(event: ReactPointerEvent) {
      const onScrollbar = event.nativeEvent.offsetX > (scroller.current?.clientWidth ?? 0) && event.target === scroller.current;
      if (event.button !== 0 || onScrollbar) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      const place = locate(event);
      start.current = { x: event.clientX, y: event.clientY, moved: false, edge: edgeAt(place), ...place };
    },
    onPointerMove(event: ReactPointerEvent) {
      const from = start.current;
      const place = locate(event);
      if (!from) {
        showGrip(edgeAt(place));
        return;
      }
      if (!from.moved && Math.hypot(event.clientX - from.x, event.clientY - from.y) < DRAG_PIXELS) return;
      from.moved = true;
      if (from.edge) pull(from.edge, place.at);
      else selectUpTo({ start: Math.min(from.at, place.at), end: Math.max(from.at, place.at) }, from.lane);
    },
    onPointerUp(event: ReactPointerEvent) {
      const from = start.current;
      start.current = undefined;
      if (!from) return;
      const { at, lane, parts } = locate(event);
      if (from.moved) {
        if (from.edge && !model.review.moveEdge(from.edge.proposal, from.edge.side, at)) setPulled(undefined);
        return;
      }
      const { selection } = model.state;
      if (event.shiftKey) {
        // From what is selected, or from the playhead, to here.
        const base = selection ?? { start: model.player.sourceTime, end: model.player.sourceTime };
        selectUpTo({ start: Math.min(base.start, at), end: Math.max(base.end, at) }, lane);
        return;
      }
      const inGutter = event.clientX - (scroller.current?.getBoundingClientRect().left ?? 0) < GUTTER;
      const [line, end] = [parts[0], parts.at(-1)];
      if (inGutter && line && end) {
        model.show({ selection: { start: line.start, end: end.end } });
        return;
      }
      const proposal = model.state.cut?.over(at);
      if (proposal && lane < BRACKET_LANE) {
        model.review.judge(proposal, proposal.verdict === 'out' ? 'stay' : 'out');
        return;
      }
      model.show({ selection: undefined, focus: proposal && { kind: proposal.kind, found: proposal.found } });
      model.player.seek(at);
    },
    onPointerCancel() {
      start.current = undefined;
      setPulled(undefined);
    },
  };
}
