import { useEffect, useState } from 'react';
import { useEpisode } from '../episode/session/useEpisode.ts';
import { JobProgress } from '../episode/workbench/JobProgress.tsx';
import { useAskedJob } from '../episode/workbench/useAskedJob.tsx';

/** What is asked for further down in the tray, by its kind of job. A search for words that are given is a recognition too. */
const WORK = {
  recognise: { waiting: 'Words: waiting for a turn', running: 'Listening for words' },
  speakers: { waiting: 'Voices: waiting for a turn', running: 'Listening to the voices' },
} as const;

/** How far the work on words is, whatever the tray shows meanwhile; and why it failed, to whom watched it. */
export function WordsUnderway() {
  return (
    <>
      <Work kind="recognise" />
      <Work kind="speakers" />
    </>
  );
}

function Work({ kind }: { readonly kind: keyof typeof WORK }) {
  const { job, current, failed } = useAskedJob(kind);
  // Without words, whoever asks tells it in plain sight.
  const hasWords = useEpisode((s) => s.words.length > 0);
  const [watched, setWatched] = useState<string>();
  useEffect(() => {
    if (current) setWatched(current.id);
  }, [current]);
  if (current) return <JobProgress job={current} {...WORK[kind]} />;
  return hasWords && job?.id === watched && failed;
}
