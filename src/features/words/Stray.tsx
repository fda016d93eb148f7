import { strayNote } from '@/core/align/strayWords.ts';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { useAskedJob } from '../episode/workbench/useAskedJob.tsx';

/** Says that words are of another recording, or of another version of this one, and has them looked for in all of the sound. */
export function Stray() {
  const model = useModel();
  const stray = useEpisode((s) => s.stray);
  const count = useEpisode((s) => s.words.length);
  const { current, ask, refused } = useAskedJob('recognise');
  const [note] = strayNote(stray, count);
  if (!note) return null;
  return (
    <div className="border-base-300 border-b py-1 text-sm">
      <p role="alert">{note}</p>
      {!current && (
        <button
          type="button"
          className="btn btn-xs mt-1"
          title="Listens to all of the recording for where these words are said, whatever times they have. Takes about as long as recognising it."
          onClick={() => void ask(() => api.placeWords(model.id, { anew: true }))}
        >
          Look for them in all of the sound
        </button>
      )}
      {refused}
    </div>
  );
}
