import { useMemo } from 'react';
import { overlapOf, union } from '@/core/time/range.ts';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { JobProgress } from '../episode/workbench/JobProgress.tsx';
import { useAskedJob } from '../episode/workbench/useAskedJob.tsx';

/** How far words are whose lines alone had times: those are looked for in the sound when they come. */
export function Placing() {
  const model = useModel();
  const { job, current, ask, trouble } = useAskedJob('place');
  const words = useEpisode((s) => s.words);
  const text = useEpisode((s) => s.decisions.text);
  const guesses = useMemo(() => words.filter(({ timing }) => timing === 'estimated'), [words]);
  // What corrections wrote was looked for when they were made.
  const isLeft = useMemo(() => {
    const written = union(text.flatMap((step) => (step.type === 'correct' ? step.changes.map(({ about }) => about) : [])));
    return guesses.some((word) => !written.some((about) => overlapOf(about, word) > 0));
  }, [guesses, text]);
  const guessed = guesses.length;
  if (current) return <JobProgress job={current} waiting="Times of words: waiting for a turn" running="Finding each word" />;
  if (guessed === 0) return null;
  return (
    <div className="flex flex-wrap items-center justify-between gap-2 py-1 text-sm">
      <span title="What is found by such words is asked about, and does not go by itself">
        Where {guessed === 1 ? 'one word is' : `${guessed} words are`} said is guessed.
      </span>
      {isLeft && job?.state !== 'done' && (
        <button
          type="button"
          className="btn btn-xs"
          title="Listens where in its line each word is said"
          onClick={() => void ask(() => api.placeWords(model.id, {}))}
        >
          {job ? 'Try again' : 'Find them'}
        </button>
      )}
      {trouble}
    </div>
  );
}
