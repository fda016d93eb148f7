import { useMemo, useState } from 'react';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { jobOf } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { isUnderWay, JobProgress } from '../episode/workbench/JobProgress.tsx';

/** How far words are whose lines alone had times: those are looked for in the sound when they come. */
export function Placing() {
  const model = useModel();
  const job = useEpisode((s) => jobOf(s.detail?.jobs, 'place'));
  const words = useEpisode((s) => s.words);
  const guessed = useMemo(() => words.filter(({ timing }) => timing === 'estimated').length, [words]);
  const [said, setSaid] = useState<Message>();
  if (job && isUnderWay(job))
    return <JobProgress job={job} waiting="Times of words: waiting for a turn" running="Finding where each word is said" />;
  if (guessed === 0) return null;
  const ask = () =>
    api
      .placeWords(model.id, {})
      .then(() => setSaid(undefined))
      .then(() => model.refresh())
      .catch((error) => setSaid({ text: (error as Error).message, bad: true }));
  return (
    <div className="flex flex-wrap items-center justify-between gap-2 py-1 text-sm">
      <span title="What is found by such words is asked about, and does not go by itself">
        Where {guessed === 1 ? 'one word is' : `${guessed} words are`} said is guessed.
      </span>
      {job?.state !== 'done' && (
        <button
          type="button"
          className="btn btn-xs"
          title="Listens where in its line each word is said"
          onClick={() => void ask()}
        >
          {job ? 'Try again' : 'Find them'}
        </button>
      )}
      {job?.state === 'failed' && (
        <p role="alert" className="w-full text-error">
          {job.error}
        </p>
      )}
      <Said message={said} />
    </div>
  );
}
