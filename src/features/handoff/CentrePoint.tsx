import { useEffect, useRef } from 'react';
import type { RenderChoices } from '@/core/render/choices.ts';
import { recordingAt } from '@/core/sources/recording.ts';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

interface Props {
  readonly size: RenderChoices['size'];
  /** how much closer the picture comes at cuts */
  readonly closer: number;
  readonly centre: RenderChoices['centre'];
  readonly onChange: (centre: RenderChoices['centre']) => void;
}

const SHAPES: Partial<Record<RenderChoices['size'], number>> = { upright: 9 / 16, square: 1 };
const STEP = 0.02;
const MOVES: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};
const within = (share: number): number => Math.round(Math.min(1, Math.max(0, share)) * 1000) / 1000;

/** Shares of a picture's width and height that stay in view. */
function sharesInView(own: number, shape: number | undefined, closer: number): readonly [number, number] {
  const near = 1 / (1 + closer);
  if (shape === undefined) return [near, near];
  return own > shape ? [(near * shape) / own, near] : [near, (near * own) / shape];
}

/** The picture at the playhead with the frame that stays in view; a click or the arrow keys move it. */
export function CentrePoint({ size, closer, centre, onChange }: Props) {
  const model = useModel();
  const recordings = useEpisode((s) => s.recordings);
  const detail = useEpisode((s) => s.detail);
  const video = useRef<HTMLVideoElement>(null);
  const own = detail?.recordings.find(({ facts }) => facts.video);
  useEffect(
    () =>
      model.player.onTime((at) => {
        const shown = recordingAt(recordings, at);
        if (video.current && shown && video.current.readyState > 0) video.current.currentTime = Math.max(0, at - shown.start);
      }),
    [model, recordings],
  );
  const { width, height } = own?.facts.video ?? { width: 16, height: 9 };
  const [across, down] = sharesInView(width / height, SHAPES[size], closer);
  const place = (share: number, at: number) => ({ size: `${100 * share}%`, from: `${100 * at * (1 - share)}%` });
  const [horizontal, vertical] = [place(across, centre.x), place(down, centre.y)];
  const pointAt = (share: number, into: number, before: number) =>
    share >= 1 ? before : within((into - share / 2) / (1 - share));
  return (
    <div className="py-1">
      <button
        type="button"
        aria-label={`What stays in view: ${Math.round(100 * centre.x)} % across, ${Math.round(100 * centre.y)} % down. Arrow keys move it.`}
        className="relative block w-full cursor-crosshair overflow-hidden rounded bg-black"
        style={{ aspectRatio: `${width} / ${height}` }}
        onClick={(event) => {
          if (event.detail === 0) return;
          const box = event.currentTarget.getBoundingClientRect();
          const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
          onChange({ x: pointAt(across, x, centre.x), y: pointAt(down, y, centre.y) });
        }}
        onKeyDown={(event) => {
          const move = MOVES[event.key];
          if (!move) return;
          event.preventDefault();
          event.stopPropagation();
          onChange({ x: within(centre.x + move[0]), y: within(centre.y + move[1]) });
        }}
      >
        {own && <video ref={video} muted preload="auto" className="size-full" src={api.picture(own.mediaId)} />}
        <span
          className="absolute outline-2 outline-white"
          style={{
            width: horizontal.size,
            left: horizontal.from,
            height: vertical.size,
            top: vertical.from,
            boxShadow: '0 0 0 100vmax rgb(0 0 0 / 0.6)',
          }}
        />
      </button>
      <p className="text-xs leading-tight quiet">Click what should stay in view.</p>
    </div>
  );
}
