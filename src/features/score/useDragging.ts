import {
  type MouseEvent as ReactMouseEvent,
  type PointerEvent as ReactPointerEvent,
  type RefObject,
  useEffect,
  useRef,
  useState,
} from 'react';
import type { SeenProposal } from '@/core/programme/packing.ts';
import { placeNear } from '@/core/programme/passage.ts';
import type { Seconds } from '@/core/time/range.ts';
import { withEdgeAt } from '../episode/review/review.ts';
import { select, selectSentence, wholeWords, wordAt } from '../episode/review/wordActions.ts';
import { clockEnd } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { inOnePassage, moveSelection } from '../order/arranging.ts';
import { BRACKET_LANE, ROW_HEIGHT } from './drawRow.ts';
import { type Edge, edgeNear } from './edges.ts';
import type { Ink } from './ink.ts';
import { type RowPart, rowParts, timeInRow } from './rows.ts';
import { momentUnder, rowText } from './rowText.ts';

const ROW_GAP = 3;
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
  /** the selection was taken hold of, to be moved */
  readonly carries: boolean;
  moved: boolean;
}

/**
 * Clicks and drags: over sound and over words they are the same act, a stretch of time; the legs of brackets can be pulled.
 * In the programme the selection can be dragged to another place.
 * @returns what to hang on the scroller, a proposal as it is while its edge is pulled, and the place over which the selection is held
 */
export function useDragging(scroller: RefObject<HTMLDivElement | null>, width: number, ink: Ink) {
  const model = useModel();
  const cut = useEpisode((s) => s.cut);
  const start = useRef<Drag>(undefined);
  const [pulled, setPulled] = useState<SeenProposal>();
  const [place, setPlace] = useState<Seconds>();

  // What was let go stays as it was pulled until the cut that holds it is there.
  useEffect(() => {
    if (!start.current) setPulled(undefined);
  }, [cut]);

  useEffect(() => {
    if (!pulled && place === undefined) return;
    const giveUp = (event: KeyboardEvent) => {
      if (event.key !== 'Escape' || !start.current) return;
      event.stopPropagation();
      start.current = undefined;
      setPulled(undefined);
      setPlace(undefined);
    };
    window.addEventListener('keydown', giveUp, { capture: true });
    return () => window.removeEventListener('keydown', giveUp, { capture: true });
  }, [pulled, place]);

  const locate = (event: { readonly clientX: number; readonly clientY: number }): Place => {
    const box = scroller.current?.getBoundingClientRect();
    const y = event.clientY - (box?.top ?? 0) + (scroller.current?.scrollTop ?? 0);
    const { rowSeconds } = model.state;
    const row = Math.max(0, Math.floor(y / PITCH));
    const x = Math.max(0, Math.min(width, event.clientX - (box?.left ?? 0) - GUTTER));
    const parts = rowParts(model.readingProgramme(), row, rowSeconds);
    const lane = y - row * PITCH;
    // Where text and sound part, what is pointed at is the word.
    const { words } = model.state;
    const word = lane >= WORDS_LANE ? momentUnder(rowText({ parts, width, rowSeconds, words, ink }), x, lane) : undefined;
    return { at: word ?? timeInRow(parts, (x / width) * rowSeconds), lane, parts };
  };

  /** The edge that can be taken hold of: where what is out is not shown, there is nothing to pull. */
  const edgeAt = ({ at, lane, parts }: Place): Edge | undefined => {
    const { reading, rowSeconds } = model.state;
    if (!model.state.cut || reading !== 'recorded' || lane >= BRACKET_LANE) return undefined;
    return edgeNear(model.state.cut, parts, at, (GRIP_PIXELS / width) * rowSeconds);
  };

  const showGrip = (edge: Edge | undefined, held: boolean) => {
    if (scroller.current) scroller.current.style.cursor = edge ? 'ew-resize' : held ? 'grab' : 'text';
  };

  const pull = ({ proposal, side }: Edge, at: Seconds): void => {
    const range = withEdgeAt(proposal, side, at, clockEnd(model.state.recordings));
    setPulled({ ...proposal, ...range });
    model.show({ selection: undefined, focus: { kind: proposal.kind, found: proposal.found } });
  };

  /** Where passages are out of order, what is selected lies in one of them. */
  const selectUpTo = (begin: Seconds, to: Seconds, lane: number): void => {
    const range = inOnePassage(model, begin, { start: Math.min(begin, to), end: Math.max(begin, to) });
    model.show({ selection: lane >= WORDS_LANE ? wholeWords(range, model.state.words) : range });
  };

  const isHeld = ({ at, lane }: Place): boolean => {
    const { selection, reading } = model.state;
    return (
      reading === 'programme' && lane >= BRACKET_LANE && selection !== undefined && selection.start <= at && at < selection.end
    );
  };

  return {
    pulled,
    place,
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
      const here = locate(event);
      const carries = !event.shiftKey && isHeld(here);
      start.current = { x: event.clientX, y: event.clientY, moved: false, edge: edgeAt(here), carries, ...here };
    },
    onPointerMove(event: ReactPointerEvent) {
      const from = start.current;
      const here = locate(event);
      if (!from) {
        showGrip(edgeAt(here), isHeld(here));
        return;
      }
      if (!from.moved && Math.hypot(event.clientX - from.x, event.clientY - from.y) < DRAG_PIXELS) return;
      from.moved = true;
      if (from.edge) pull(from.edge, here.at);
      else if (from.carries) setPlace(placeNear(here.at, model.state.words, model.state.recordings).to);
      else selectUpTo(from.at, here.at, from.lane);
    },
    onPointerUp(event: ReactPointerEvent) {
      const from = start.current;
      start.current = undefined;
      if (!from) return;
      const { at, lane, parts } = locate(event);
      if (from.moved) {
        if (from.carries) {
          setPlace(undefined);
          moveSelection(model, at);
        }
        if (from.edge && !model.review.moveEdge(from.edge.proposal, from.edge.side, at)) setPulled(undefined);
        return;
      }
      const { selection } = model.state;
      if (event.shiftKey) {
        // From what is selected, or from the playhead, to here.
        const base = selection ?? { start: model.player.sourceTime, end: model.player.sourceTime };
        selectUpTo(at < base.start ? base.end : base.start, at, lane);
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
      setPlace(undefined);
    },
  };
}
