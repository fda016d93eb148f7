import { type ReactNode, useState } from 'react';
import type { JobView } from '@/core/contract/messages.ts';
import { type Message, Said } from '@/ui/Said.tsx';
import { jobOf } from '../session/recordings.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { isUnderWay } from './JobProgress.tsx';

/** Work on an episode that is asked of the server, and what came of it. */
interface AskedJob {
  /** the last one of its kind */
  readonly job: JobView | undefined;
  /** the same while it waits or runs */
  readonly current: JobView | undefined;
  /** sends a request for it */
  readonly ask: (request: () => Promise<unknown>) => Promise<void>;
  /** why it was not taken */
  readonly refused: ReactNode;
  /** why it failed */
  readonly failed: ReactNode;
  /** why it failed, or was not taken */
  readonly trouble: ReactNode;
}

/** Follows the work of one kind on the episode that is open. */
export function useAskedJob(kind: JobView['kind']): AskedJob {
  const model = useModel();
  const job = useEpisode((s) => jobOf(s.detail?.jobs, kind));
  const [said, setSaid] = useState<Message>();
  const ask = async (request: () => Promise<unknown>) => {
    try {
      await request();
      setSaid(undefined);
      await model.refresh();
    } catch (error) {
      setSaid({ text: (error as Error).message, bad: true });
    }
  };
  const failed = job?.state === 'failed' && <Said message={{ text: job.error ?? 'It failed.', bad: true }} />;
  const refused = <Said message={said} />;
  const trouble = (
    <>
      {failed}
      {refused}
    </>
  );
  return { job, current: job && isUnderWay(job) ? job : undefined, ask, refused, failed, trouble };
}
