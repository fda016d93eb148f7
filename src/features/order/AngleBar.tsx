import { useEffect, useState } from 'react';
import { api } from '../api.ts';
import { angleAt, anglesOf, picturesAt, type Seen } from '../episode/session/angles.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { showAngle } from './choosePicture.ts';

/** The picture that was chosen for a moment, and whether it does not reach that. */
function chosenAt(state: Seen, at: number): { readonly seen: string; readonly isBeyond: boolean } {
  const seen = angleAt(state, at);
  return { seen, isBeyond: seen !== '' && angleAt({ decisions: { angles: anglesOf(state) } }, at) !== seen };
}

/** Which of several pictures is seen from the playhead on, or in the selection. */
export function AngleBar() {
  const model = useModel();
  const detail = useEpisode((s) => s.detail);
  const decisions = useEpisode((s) => s.decisions);
  const selection = useEpisode((s) => s.selection);
  const [{ at }, setShown] = useState({ at: model.player.sourceTime, text: '' });
  // What is shown here changes where a recording or a picture does: not with each frame.
  useEffect(
    () =>
      model.player.onTime((now) => {
        const text = JSON.stringify([picturesAt(model.state, now), chosenAt(model.state, now)]);
        setShown((before) => (before.text === text ? before : { at: now, text }));
      }),
    [model],
  );
  const moment = selection?.start ?? at;
  const pictures = picturesAt({ detail }, moment);
  if (pictures.length < 2) return null;
  const { seen, isBeyond } = chosenAt({ detail, decisions }, moment);
  const where = selection ? 'in the selection' : 'from here on';
  const late = pictures.find(({ angle, state }) => angle === seen && (state === 'pending' || state === 'failed'));
  return (
    <fieldset
      className="flex flex-wrap items-center gap-1 bg-base-200 px-2 py-1 text-xs"
      aria-label={`Picture that is seen ${where}`}
    >
      <span className="quiet" aria-hidden>
        Seen {where}
      </span>
      {pictures.map(({ angle, name }) => (
        <button
          key={angle}
          type="button"
          className={`btn btn-xs max-w-40 ${angle === seen ? 'btn-neutral' : ''}`}
          aria-pressed={angle === seen}
          title={`${name} (the next one: Shift N)`}
          onClick={() => showAngle(model, angle)}
        >
          <bdi className="truncate">{name}</bdi>
        </button>
      ))}
      {isBeyond && <p className="quiet">It does not reach this moment: the recording’s own picture is seen.</p>}
      {late && !isBeyond && (
        <p className="quiet">
          {late.state === 'pending'
            ? 'It is being made ready for this browser.'
            : 'It cannot be shown here, but is rendered and handed over. '}
          {late.state === 'failed' && (
            <button type="button" className="link" onClick={() => void api.retry(model.id).then(() => model.refresh())}>
              Try again
            </button>
          )}
        </p>
      )}
    </fieldset>
  );
}
