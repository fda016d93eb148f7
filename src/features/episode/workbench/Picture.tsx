import { useEffect, useRef } from 'react';
import type { RecordingDetail } from '@/core/contract/messages.ts';
import { CaptionOverlay } from '../../playback/CaptionOverlay.tsx';
import { hasPicture } from '../session/recordings.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';

const NONE: readonly RecordingDetail[] = [];

/** The picture at the playhead. Two elements take turns, so that nothing is waited for at a seam. */
export function Picture() {
  const model = useModel();
  const recordings = useEpisode((s) => s.detail?.recordings ?? NONE);
  const first = useRef<HTMLVideoElement>(null);
  const second = useRef<HTMLVideoElement>(null);
  const shows = recordings.some(hasPicture);
  const showsCaptions = useEpisode((s) => s.captions !== undefined);

  useEffect(() => {
    if (shows && first.current && second.current) model.player.pictures.attach([first.current, second.current]);
  }, [shows, model]);

  if (recordings.every(({ facts }) => facts.video === undefined)) return showsCaptions ? <SoundAlone /> : null;
  return (
    <div className="relative w-full shrink-0 overflow-hidden bg-black" style={{ aspectRatio: '16 / 9' }}>
      {shows && <p className="absolute inset-0 grid place-items-center text-neutral-400 text-sm">No picture here.</p>}
      {shows ? (
        [first, second].map((ref, k) => (
          <video
            key={k === 0 ? 'first' : 'second'}
            ref={ref}
            className="absolute inset-0 h-full w-full object-contain"
            muted
            playsInline
            preload="auto"
            aria-label={k === 0 ? 'Picture at the playhead' : undefined}
            aria-hidden={k === 1}
            tabIndex={-1}
          />
        ))
      ) : (
        <p className="absolute inset-0 grid place-items-center p-4 text-center text-neutral-200 text-sm">
          {recordings.some(({ picture }) => picture === 'failed')
            ? 'The picture could not be made ready. The sound can still be cut.'
            : 'The picture is being made ready for this browser.'}
        </p>
      )}
      {showsCaptions && <CaptionOverlay />}
    </div>
  );
}

/** Sound alone has no picture to show captions on: a dark field stands for it. */
const SoundAlone = () => (
  <div className="relative h-24 w-full shrink-0 overflow-hidden bg-black">
    <CaptionOverlay />
  </div>
);
