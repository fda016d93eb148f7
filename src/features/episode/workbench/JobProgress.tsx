import type { ReactNode } from 'react';
import type { JobView } from '@/core/contract/messages.ts';
import { Measure } from '@/ui/Measure.tsx';
import { api } from '../../api.ts';

interface Props {
  readonly job: JobView;
  readonly waiting: string;
  readonly running: string;
  readonly children?: ReactNode;
}

export const isUnderWay = (job: JobView): boolean => job.state === 'running' || job.state === 'queued';

/** How far a job is that is under way, and a way to stop it. */
export function JobProgress({ job, waiting, running, children }: Props) {
  return (
    <div className="py-1">
      <Measure label={job.state === 'queued' ? (job.error ?? waiting) : running} share={job.progress} remaining={job.remaining} />
      {children}
      <button type="button" className="btn btn-xs mt-1" onClick={() => void api.cancelJob(job.id)}>
        Cancel
      </button>
    </div>
  );
}
