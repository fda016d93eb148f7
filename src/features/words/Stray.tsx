import { useState } from 'react';
import { strayNote } from '@/core/align/strayWords.ts';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { jobOf } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { isUnderWay, JobProgress } from '../episode/workbench/JobProgress.tsx';

/** Says that words are of another recording, or of another version of this one, and has them looked for in all of the sound. */
export function Stray() {
  const model = useModel();
  const stray = useEpisode((s) => s.stray);
  const count = useEpisode((s) => s.words.length);
  const job = useEpisode((s) => jobOf(s.detail?.jobs, 'recognise'));
  const [isAsked, setAsked] = useState(false);
  const [said, setSaid] = useState<Message>();
  const [note] = strayNote(stray, count);
  if (!note) return null;
  const seek = () =>
    api
      .placeWords(model.id, { anew: true })
      .then(() => setSaid(undefined))
      .then(() => setAsked(true))
      .then(() => model.refresh())
      .catch((error) => setSaid({ text: (error as Error).message, bad: true }));
  return (
    <div className="border-base-300 border-b py-1 text-sm">
      <p role="alert">{note}</p>
      {isAsked && job && isUnderWay(job) ? (
        <JobProgress
          job={job}
          waiting="Looking for the words: waiting for a turn"
          running="Listening for where these words are said"
        />
      ) : (
        <button
          type="button"
          className="btn btn-xs mt-1"
          title="Listens to all of the recording for where these words are said, whatever times they have. Takes about as long as recognising it."
          onClick={() => void seek()}
        >
          Look for them in all of the sound
        </button>
      )}
      {isAsked && job?.state === 'failed' && (
        <p role="alert" className="mt-1 text-error">
          {job.error}
        </p>
      )}
      <Said message={said} />
    </div>
  );
}
