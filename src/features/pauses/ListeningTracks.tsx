import { listeningTracks, specOf } from '@/core/detect/settings.ts';
import { settingsShown } from '../episode/review/tuning.ts';
import { mostTracks } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';

/** Which tracks listen; the others are only cut along. */
export function ListeningTracks() {
  const model = useModel();
  const audio = useEpisode((s) => mostTracks(s.detail));
  const listen = useEpisode((s) => settingsShown(s).listen);
  if (!audio || audio.length < 2) return null;
  const listening = new Set(listeningTracks(listen, audio.length));
  const toggle = (track: number, on: boolean) => {
    const next = audio.map((_, k) => k).filter((k) => (k === track ? on : listening.has(k)));
    model.tuning.settleSetting('listen', next.length === audio.length ? 'all' : next.map((k) => k + 1).join(','));
  };
  return (
    <fieldset className="py-1">
      <legend className="font-semibold text-sm">{specOf('listen').label}</legend>
      {audio.map(({ index, title }, track) => (
        <label key={index} className="mr-4 inline-flex cursor-pointer items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={listening.has(track)}
            disabled={listening.has(track) && listening.size === 1}
            onChange={(event) => toggle(track, event.target.checked)}
          />
          {title ?? `Track ${track + 1}`} {listening.has(track) ? 'listens' : 'follows'}
        </label>
      ))}
      <p className="text-xs leading-tight quiet">{specOf('listen').help}</p>
    </fieldset>
  );
}
