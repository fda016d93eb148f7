import { type PointerEvent as ReactPointerEvent, useEffect, useLayoutEffect, useRef, useState } from 'react';
import { PEAK_LAYERS } from '@/core/curves/peaks.ts';
import { type Programme, toSource } from '@/core/programme/programme.ts';
import { overlapWith } from '@/core/time/range.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import type { Ink } from './ink.ts';
import { onFrame } from './useWave.ts';

const WIDTH = 44;
const MIDDLE = 19;
const REACH = 15;
const COARSEST = PEAK_LAYERS - 1;
const PACE_MS = 100;

interface Props {
  /** share of the reading that the rows show, from and to */
  readonly visible: readonly [number, number];
  readonly programme: Programme;
  readonly ink: Ink;
  readonly onTravel: (share: number) => void;
}

/** The whole recording as a thin strip: where material goes, where something is open, what was listened to, and where one is. */
export function OverviewStrip({ visible, programme, ink, onTravel }: Props) {
  const model = useModel();
  const cut = useEpisode((s) => s.cut);
  const reading = useEpisode((s) => s.reading);
  const heard = useEpisode((s) => s.decisions.heard);
  const canvas = useRef<HTMLCanvasElement>(null);
  const mark = useRef<HTMLDivElement>(null);
  const [height, setHeight] = useState(0);
  const [peaksVersion, setPeaksVersion] = useState(0);
  /** the gain that the strip was last drawn with, once no peak was missing */
  const drawn = useRef(0);
  useEffect(
    () =>
      onFrame(
        model.peaks,
        model.peaks.loads,
        () => drawn.current !== model.peaks.gain && setPeaksVersion((version) => version + 1),
      ),
    [model],
  );

  useLayoutEffect(() => {
    const element = canvas.current?.parentElement;
    if (!element) return;
    const observer = new ResizeObserver(() => setHeight(element.clientHeight));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);

  const drawSpine = (c: CanvasRenderingContext2D) => {
    const density = window.devicePixelRatio || 1;
    c.canvas.width = WIDTH * density;
    c.canvas.height = height * density;
    c.setTransform(density, 0, 0, density, 0, 0);
    const perPixel = programme.length / height;
    const peak = { low: 0, high: 0 };
    let next = 0;
    let isWhole = true;
    for (let y = 0; y < height; y++) {
      const from = toSource(programme, y * perPixel);
      const to = from + perPixel;
      let loud = 0;
      for (let track = 0; track < model.peaks.tracks; track++)
        if (model.peaks.read(track, COARSEST, from, to, peak)) loud = Math.max(loud, peak.high, -peak.low);
        else isWhole = false;
      let taken = 0;
      let open = false;
      while (cut && next < cut.count && cut.end(next) <= from) next++;
      for (let k = next; cut && k < cut.count && cut.start(k) < to; k++) {
        const verdict = cut.verdict(k);
        if (verdict === 'out') taken += Math.min(to, cut.end(k)) - Math.max(from, cut.start(k));
        if (verdict === 'open') open = true;
      }
      const reach = Math.max(0.5, (loud / 127) * REACH * model.peaks.gain);
      c.fillStyle = reading === 'recorded' && taken > perPixel / 2 ? ink.hatch : ink.kept;
      c.fillRect(MIDDLE - reach, y, 2 * reach, 1);
      if (overlapWith(heard, { start: from, end: to }) > 0) {
        c.fillStyle = ink.hand;
        c.fillRect(1, y, 3, 1);
      }
      if (open && reading === 'recorded') {
        c.fillStyle = ink.pause;
        c.fillRect(WIDTH - 7, y - 1, 5, 3);
      }
    }
    drawn.current = isWhole ? model.peaks.gain : 0;
  };

  // The rows paint first, and the strip follows ten times a second: a frame of its own at each step of a slider would make the
  // next step wait.
  const draw = useRef(drawSpine);
  draw.current = drawSpine;
  const due = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => {
    due.current ??= setTimeout(() => {
      due.current = undefined;
      const c = canvas.current?.getContext('2d');
      if (c && height > 0) draw.current(c);
    }, PACE_MS);
  }, [cut, reading, heard, programme, height, ink, peaksVersion, model]);

  useEffect(
    () =>
      model.player.onTime((source) => {
        if (!mark.current) return;
        const share = programme.length > 0 ? model.toReading(source) / programme.length : 0;
        mark.current.style.transform = `translateY(${share * height}px)`;
      }),
    [model, programme, height],
  );

  const travel = (event: ReactPointerEvent<HTMLDivElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    onTravel(Math.max(0, Math.min(1, (event.clientY - box.top) / box.height)));
  };

  return (
    <div
      className="relative shrink-0 cursor-ns-resize border-base-300 border-r bg-base-200"
      style={{ width: WIDTH }}
      title="The whole recording: click or drag to travel. The line at its left edge: what was listened to."
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        travel(event);
      }}
      onPointerMove={(event) => event.buttons === 1 && travel(event)}
    >
      <canvas ref={canvas} aria-hidden style={{ width: WIDTH, height }} />
      <div
        aria-hidden
        className="pointer-events-none absolute inset-x-0 border-base-content/50 border-y-2 bg-base-content/10"
        style={{ top: `${visible[0] * 100}%`, height: `${Math.min(1, visible[1] - visible[0]) * 100}%`, maxHeight: '100%' }}
      />
      <div
        ref={mark}
        aria-hidden
        className="pointer-events-none absolute inset-x-0 top-0 h-[2px]"
        style={{ background: 'var(--ink-playhead)' }}
      />
    </div>
  );
}
