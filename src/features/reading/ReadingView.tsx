import { useVirtualizer } from '@tanstack/react-virtual';
import { type PointerEvent as ReactPointerEvent, useEffect, useMemo, useRef, useState } from 'react';
import { momentLabel } from '@/core/sources/recording.ts';
import { spanOf } from '@/core/transcript/find.ts';
import type { Word } from '@/core/transcript/word.ts';
import { wordsIn } from '@/core/transcript/wordsIn.ts';
import { select, selectedWords, selectSentence, wordAt } from '../episode/review/wordActions.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { inOnePassage, moveSelection, recordingName } from '../order/arranging.ts';
import { Paragraph } from './Paragraph.tsx';
import { paragraphsAsHeard } from './paragraphs.ts';

/** The words alone, in paragraphs by speaker, for those who want to read: same selection, keys and playhead as the score. */
export function ReadingView() {
  const model = useModel();
  const words = useEpisode((s) => s.words);
  const cut = useEpisode((s) => s.cut);
  const detail = useEpisode((s) => s.detail);
  const find = useEpisode((s) => s.find);
  const spoken = useEpisode((s) => s.spoken);
  const selection = useEpisode((s) => s.selection);
  const recordings = useEpisode((s) => s.recordings);
  const removed = useEpisode((s) => s.decisions.removed);
  const moves = useEpisode((s) => s.decisions.moves);
  const scroller = useRef<HTMLDivElement>(null);
  const paragraphs = useMemo(() => paragraphsAsHeard(words, recordings, { removed, moves }), [words, recordings, removed, moves]);
  const found = useMemo(() => {
    const { firsts, count } = model.finder.find(words, find.text);
    return {
      marked: new Set(firsts.flatMap((first) => Array.from({ length: count }, (_, n) => first + n))),
      here: firsts[find.at],
    };
  }, [model, words, find]);
  const virtualizer = useVirtualizer({
    count: paragraphs.length,
    getScrollElement: () => scroller.current,
    estimateSize: (k) => 60 + (paragraphs[k]?.words.length ?? 0) * 2.4,
    overscan: 3,
  });
  const paragraphAt = (index: number) =>
    Math.max(
      0,
      paragraphs.findIndex(({ first, words: own }) => first <= index && index < first + own.length),
    );

  // Start where the score was left, and follow what is spoken, looked for or stepped to.
  useEffect(() => {
    if (paragraphs.length > 0)
      virtualizer.scrollToIndex(paragraphAt(wordAt(words, model.player.sourceTime)), { align: 'center' });
  }, [paragraphs.length > 0]);
  const followed = spoken >= 0 ? paragraphAt(spoken) : -1;
  useEffect(() => {
    if (followed >= 0) virtualizer.scrollToIndex(followed, { align: 'auto' });
  }, [followed]);
  const revealed = useEpisode((s) => s.revealed);
  useEffect(() => {
    if (revealed) virtualizer.scrollToIndex(paragraphAt(wordAt(words, revealed.at + 0.5)), { align: 'auto' });
  }, [revealed]);

  const { place, ...drag } = useWordDragging();
  const [from, to] = selection ? wordsIn(words, selection) : [-1, -1];
  if (words.length === 0)
    return <p className="grow p-8 text-sm">There are no words to read yet. The Words tray brings or recognises them.</p>;
  return (
    <section
      ref={scroller}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
      tabIndex={0}
      aria-label="Words alone"
      className="min-w-0 grow select-none overflow-y-scroll"
      {...drag}
    >
      <div className="mx-auto max-w-4xl" style={{ height: virtualizer.getTotalSize() + 48, position: 'relative' }}>
        {virtualizer.getVirtualItems().map((item) => {
          const paragraph = paragraphs[item.index] as (typeof paragraphs)[number];
          const { first } = paragraph;
          const last = first + paragraph.words.length;
          return (
            <div
              key={item.key}
              ref={virtualizer.measureElement}
              data-index={item.index}
              className="absolute inset-x-0 flex gap-5 px-6 pt-5"
              style={{ transform: `translateY(${item.start}px)` }}
            >
              <div className="w-24 shrink-0 pt-1 text-right text-sm">
                <div className="truncate font-semibold">
                  {paragraphs[item.index - 1]?.speaker === paragraph.speaker ? '' : paragraph.speaker}
                </div>
                <div className="tabular text-xs quiet">{momentLabel(recordings, paragraph.start)}</div>
                {paragraph.isMoved && (
                  <div className="text-xs" style={{ color: 'var(--ink-hand)' }}>
                    moved
                  </div>
                )}
              </div>
              {paragraph.begins !== undefined && (
                <p className="absolute inset-x-6 top-0 border-base-300 border-t text-xs quiet">
                  {recordingName({ detail, recordings }, paragraph.begins)}
                </p>
              )}
              <Paragraph
                {...{ first, cut }}
                place={place !== undefined && place >= first && place < last ? place : undefined}
                words={paragraph.words}
                spoken={spoken >= first && spoken < last ? spoken : -1}
                selected={from < last && to > first ? `${from} ${to}` : ''}
                found={found.marked}
                here={found.here}
              />
            </div>
          );
        })}
      </div>
    </section>
  );
}

/** Index of the word under the pointer. */
function wordUnder(event: { readonly clientX: number; readonly clientY: number }): number | undefined {
  const span = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>('[data-word]');
  return span ? Number(span.dataset.word) : undefined;
}

/**
 * Selecting by words: drag, shift, twice for a word, three times for its sentence. A click goes there. A selection that is dragged moves.
 * @returns what to hang on the text, and the word before which a dragged selection is held
 */
function useWordDragging() {
  const model = useModel();
  const start = useRef<{ word: number; moved: boolean; carries: boolean }>(undefined);
  const [place, setPlace] = useState<number>();
  return {
    place,
    onPointerDown(event: ReactPointerEvent) {
      const word = event.button === 0 ? wordUnder(event) : undefined;
      if (word === undefined) return;
      const [first, last] = selectedWords(model) ?? [-1, -1];
      start.current = { word, moved: false, carries: !event.shiftKey && word >= first && word < last };
    },
    onPointerMove(event: ReactPointerEvent) {
      const from = start.current;
      if (!from || event.buttons === 0) return;
      const word = wordUnder(event);
      if (word === undefined || (word === from.word && !from.moved)) return;
      from.moved = true;
      if (from.carries) {
        setPlace(word);
        return;
      }
      const { words } = model.state;
      const range = spanOf(words, Math.min(from.word, word), Math.abs(word - from.word) + 1);
      model.show({ selection: inOnePassage(model, (words[from.word] as Word).start, range) });
    },
    onClick(event: { readonly clientX: number; readonly clientY: number; readonly shiftKey: boolean; readonly detail: number }) {
      const { moved, carries } = start.current ?? {};
      start.current = undefined;
      setPlace(undefined);
      const word = wordUnder(event);
      if (moved && carries && word !== undefined) {
        moveSelection(model, (model.state.words[word] as Word).start);
        return;
      }
      if (moved || word === undefined) return;
      const chosen = selectedWords(model);
      if (event.shiftKey) {
        const at = wordAt(model.state.words, model.player.sourceTime);
        const [first, last] = chosen ?? [at, at + 1];
        select(model, Math.min(first, word), Math.max(last, word + 1));
      } else if (event.detail >= 2) {
        select(model, word, word + 1);
        if (event.detail >= 3) selectSentence(model);
      } else {
        const at = model.state.words[word]?.start ?? 0;
        const proposal = model.state.cut?.over(at + 0.01);
        model.show({ selection: undefined, focus: proposal && { kind: proposal.kind, found: proposal.found } });
        model.player.seek(at);
      }
    },
  };
}
