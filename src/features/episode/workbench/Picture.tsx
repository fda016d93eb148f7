import { useEffect, useRef } from 'react';
import { api } from '../../api.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';

/** The picture at the playhead. Two elements take turns, so that nothing is waited for at a seam. */
export function Picture() {
  const model = useModel();
  const mediaId = useEpisode((s) => s.detail?.mediaId);
  const picture = useEpisode((s) => s.detail?.picture);
  const video = useEpisode((s) => s.detail?.facts.video);
  const first = useRef<HTMLVideoElement>(null);
  const second = useRef<HTMLVideoElement>(null);
  const shows = mediaId !== undefined && (picture === 'original' || picture === 'proxy');

  useEffect(() => {
    if (shows && first.current && second.current) model.player.pictures.attach([first.current, second.current]);
  }, [shows, model]);

  if (!video) return null;
  return (
    <div className="relative w-full shrink-0 overflow-hidden bg-black" style={{ aspectRatio: '16 / 9' }}>
      {shows ? (
        [first, second].map((ref, k) => (
          <video
            key={k === 0 ? 'first' : 'second'}
            ref={ref}
            className="absolute inset-0 h-full w-full object-contain"
            src={api.picture(mediaId)}
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
          {picture === 'failed'
            ? 'The picture could not be made ready. The sound can still be cut.'
            : 'The picture is being made ready for this browser.'}
        </p>
      )}
    </div>
  );
}
