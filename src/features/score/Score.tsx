import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { decodeCurve } from '@/core/curves/codec.ts';
import { SPEECH_RATE, type SpeechCurve } from '@/core/curves/speech.ts';
import { partsOf } from '@/core/programme/parts.ts';
import { type Programme, toProgramme } from '@/core/programme/programme.ts';
import type { Finds } from '@/core/transcript/find.ts';
import type { Word } from '@/core/transcript/word.ts';
import { api } from '../api.ts';
import { STEP_MARK } from '../episode/review/tuning.ts';
import { angleChanges } from '../episode/session/angles.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { useGroup } from '../takes/useTakes.ts';
import type { RowLayout } from './drawLayout.ts';
import { type LitAttempt, ROW_HEIGHT } from './drawRow.ts';
import { useInk } from './ink.ts';
import { OverviewStrip } from './OverviewStrip.tsx';
import { rowCount } from './rows.ts';
import { ScoreRow } from './ScoreRow.tsx';
import { GUTTER, PITCH, useDragging } from './useDragging.ts';

const EDGE = 14;

/** The recording set in rows: waveform, words under their moments, brackets over both. */
export function Score() {
  const model = useModel();
  const cut = useEpisode((s) => s.cut);
  const described = useEpisode((s) => s.settled);
  const words = useEpisode((s) => s.words);
  const lit = useEpisode((s) => s.lit);
  const beside = useEpisode((s) => s.beside?.cut);
  const sections = useEpisode((s) => s.decisions.sections);
  const speech = useSpeech();
  const rowSeconds = useEpisode((s) => s.rowSeconds);
  const reading = useEpisode((s) => s.reading);
  const recordings = useEpisode((s) => s.recordings);
  const removed = useEpisode((s) => s.decisions.removed);
  const selection = useEpisode((s) => s.selection);
  const focus = useEpisode((s) => s.focus);
  const find = useEpisode((s) => s.find);
  const found = useMemo(() => foundMarks(words, model.finder.find(words, find.text), find.at), [model, words, find]);
  const speakers = useSpeakers(words);
  const spoken = useEpisode((s) => s.spoken);
  const attempts = useLitAttempts();
  const ink = useInk();
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  const programme = useMemo(
    () => model.readingProgramme(),
    [model, reading, reading === 'programme' ? cut : undefined, recordings, removed],
  );
  const rows = rowCount(programme, rowSeconds);
  const virtualizer = useVirtualizer({
    count: rows,
    getScrollElement: () => scroller.current,
    estimateSize: () => PITCH,
    overscan: 1,
  });
  const focused = useMemo(() => focus && cut?.same(focus), [focus, cut]);

  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(Math.max(100, element.clientWidth - GUTTER - EDGE)));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  // Rows of another length begin elsewhere: stay with the playhead.
  useEffect(() => {
    const row = Math.floor(model.toReading(model.player.sourceTime) / rowSeconds);
    virtualizer.scrollToIndex(Math.max(0, row - 1), { align: 'start' });
  }, [rowSeconds, reading]);

  useEffect(() => {
    if (!focused) return;
    virtualizer.scrollToIndex(Math.min(rows - 1, Math.floor(model.toReading(focused.start) / rowSeconds)), { align: 'auto' });
  }, [focus]);

  const revealed = useEpisode((s) => s.revealed);
  useEffect(() => {
    if (!revealed) return;
    const row = Math.floor(model.toReading(Math.max(0, revealed.at)) / rowSeconds);
    virtualizer.scrollToIndex(Math.min(rows - 1, revealed.atTop ? Math.max(0, row - 1) : row), {
      align: revealed.atTop ? 'start' : 'auto',
    });
  }, [revealed]);

  // Rows have painted by now: their effects run before this one.
  useLayoutEffect(() => {
    if (performance.getEntriesByName(STEP_MARK, 'mark').length === 0) return;
    performance.measure(`${STEP_MARK}:painted`, STEP_MARK);
    performance.clearMarks(STEP_MARK);
  }, [cut]);

  const { pulled, place, ...drag } = useDragging(scroller, width, ink);
  const layout = useRowLayout(place);
  const items = virtualizer.getVirtualItems();
  // What comes into sight takes over the canvas of what goes out of it: making one takes longer than painting it.
  const pool = useRef(0);
  pool.current = Math.max(pool.current, items.length);

  return (
    <div className="flex min-h-0 min-w-0 grow">
      <OverviewStrip
        visible={[
          ((items[0]?.index ?? 0) * rowSeconds) / programme.length,
          (((items.at(-1)?.index ?? 0) + 1) * rowSeconds) / programme.length,
        ]}
        programme={programme}
        ink={ink}
        onTravel={(share) => virtualizer.scrollToOffset(share * virtualizer.getTotalSize() - 300)}
      />
      <section
        ref={scroller}
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region must be reachable by keyboard
        tabIndex={0}
        aria-label="Score"
        className="relative min-w-0 grow overflow-y-scroll"
        {...drag}
        style={{ touchAction: 'pan-y', cursor: 'text' }}
      >
        <div style={{ height: virtualizer.getTotalSize(), position: 'relative' }}>
          {width > 0 &&
            items.map((item) => (
              <ScoreRow
                key={item.index % pool.current}
                row={item.index}
                top={item.start}
                showsOut={reading === 'recorded'}
                peaks={model.peaks}
                {...{ width, rowSeconds, programme, cut, described, words, speakers, selection, ink }}
                focus={focused}
                other={reading === 'recorded' ? (lit ?? beside) : undefined}
                otherIs={lit ? 'before' : 'beside'}
                {...{ sections, speech, found, attempts, pulled, layout }}
                spoken={isIn(words[spoken], programme, item.index, rowSeconds) ? spoken : -1}
              />
            ))}
          <Playhead scroller={scroller} width={width} scrollTo={(row) => virtualizer.scrollToIndex(row, { align: 'center' })} />
        </div>
      </section>
    </div>
  );
}

/** How the programme is laid out, as the rows show it. */
function useRowLayout(place: number | undefined): RowLayout {
  const detail = useEpisode((s) => s.detail);
  const recordings = useEpisode((s) => s.recordings);
  const moves = useEpisode((s) => s.decisions.moves);
  const breaks = useEpisode((s) => s.decisions.breaks);
  const angles = useEpisode((s) => s.decisions.angles);
  const wanted = useEpisode((s) => s.decisions.collected);
  const collecting = useEpisode((s) => s.decisions.collecting !== undefined);
  const lifted = useEpisode((s) => s.lifted);
  const cut = useEpisode((s) => (s.decisions.breaks.length > 0 ? s.settled : undefined));
  const named = useMemo(
    () => recordings.map((one) => ({ ...one, name: detail?.recordings.find(({ id }) => id === one.id)?.fileName ?? '' })),
    [recordings, detail],
  );
  const titled = useMemo(() => {
    const parts = cut ? partsOf(cut.programme, breaks) : [];
    return breaks.map(({ at, part, title }) => ({ at, title: parts.find((one) => one.part === part)?.title ?? title }));
  }, [breaks, cut]);
  const pictures = useMemo(() => angleChanges({ detail, decisions: { angles } }), [detail, angles]);
  return useMemo(
    () => ({ recordings: named, moves, breaks: titled, pictures, wanted, collecting, lifted, place }),
    [named, moves, titled, pictures, wanted, collecting, lifted, place],
  );
}

const NO_ATTEMPTS: readonly LitAttempt[] = [];

/** The attempts that the Takes tray is about, while it is open. */
function useLitAttempts(): readonly LitAttempt[] {
  const group = useGroup();
  const shown = useEpisode((s) => s.tray === 'takes' && s.reading === 'recorded');
  return useMemo(
    () =>
      shown && group
        ? group.attempts.map(({ start, end }, k) => ({
            start,
            end,
            number: k + 1,
            kept: group.kept.filter((range) => range.start < end && range.end > start),
          }))
        : NO_ATTEMPTS,
    [shown, group],
  );
}

const NO_SPEAKERS: readonly string[] = [];

/** Who speaks, in the order in which they are first heard, as the same list while they are the same; none where one speaks alone. */
function useSpeakers(words: readonly Word[]): readonly string[] {
  const names = useMemo(() => [...new Set(words.map(({ speaker }) => speaker))], [words]);
  const key = names.join('\n');
  return useMemo(() => (names.length > 1 ? names : NO_SPEAKERS), [key]);
}

/** 1 for each word that is looked for, 2 for those of the place that is looked at. */
function foundMarks(words: readonly Word[], { firsts, count }: Finds, at: number): Uint8Array | undefined {
  if (firsts.length === 0) return undefined;
  const marks = new Uint8Array(words.length);
  for (const [k, first] of firsts.entries()) marks.fill(k === at ? 2 : 1, first, first + count);
  return marks;
}

const isIn = (word: Word | undefined, programme: Programme, row: number, rowSeconds: number): boolean =>
  word !== undefined && Math.floor(toProgramme(programme, word.start) / rowSeconds) === row;

/** The probability that anybody speaks, on any track, along the episode clock, while it is to be seen. */
function useSpeech(): SpeechCurve | undefined {
  const recordings = useEpisode((s) => (s.showsSpeech ? s.material?.recordings : undefined));
  const [speech, setSpeech] = useState<SpeechCurve>();
  useEffect(() => {
    let wanted = true;
    setSpeech(undefined);
    if (recordings)
      void Promise.all(
        recordings.map(async ({ place, measures }) => ({
          place,
          files: await Promise.all((measures.speech ?? []).map(api.curve)),
        })),
      ).then(
        (placed) => wanted && setSpeech(loudestOnClock(placed)),
        () => {},
      );
    return () => {
      wanted = false;
    };
  }, [recordings]);
  return speech;
}

function loudestOnClock(placed: readonly { readonly place: number; readonly files: readonly Uint8Array[] }[]): SpeechCurve {
  const curves = placed.flatMap(({ place, files }) =>
    files.map((file) => ({ from: Math.round(place * SPEECH_RATE), samples: decodeCurve(file).samples })),
  );
  const codes = new Uint8Array(Math.max(0, ...curves.map(({ from, samples }) => from + samples.length)));
  for (const { from, samples } of curves)
    for (let k = 0; k < samples.length; k++) codes[from + k] = Math.max(codes[from + k] as number, samples[k] as number);
  return { codes };
}

interface PlayheadProps {
  readonly scroller: React.RefObject<HTMLDivElement | null>;
  readonly width: number;
  readonly scrollTo: (row: number) => void;
}

/** The line that moves. It is placed outside React, for each frame of the screen. */
function Playhead({ scroller, width, scrollTo }: PlayheadProps) {
  const model = useModel();
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    let [lastRow, moved] = [-1, false];
    return model.player.onTime((source) => {
      const { rowSeconds } = model.state;
      const { moves } = model.player;
      const at = model.toReading(source);
      const row = Math.floor(at / rowSeconds);
      if (line.current) {
        const x = GUTTER + ((at - row * rowSeconds) / rowSeconds) * width;
        line.current.style.transform = `translate(${x}px, ${row * PITCH}px)`;
      }
      const view = scroller.current;
      if (
        moves &&
        (row !== lastRow || !moved) &&
        view &&
        ((row + 1) * PITCH > view.scrollTop + view.clientHeight || row * PITCH < view.scrollTop)
      )
        scrollTo(row);
      [lastRow, moved] = [row, moves];
    });
  }, [model, width, scroller, scrollTo]);
  return (
    <div
      ref={line}
      aria-hidden
      className="pointer-events-none absolute top-0 left-0 w-[2px]"
      style={{ height: ROW_HEIGHT - 2, background: 'var(--ink-playhead)' }}
    />
  );
}
