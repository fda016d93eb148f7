import { api } from '../api.ts';
import { SettingChoice } from '../episode/review/SettingControl.tsx';
import { isMeasured, jobOf } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { isUnderWay, JobProgress } from '../episode/workbench/JobProgress.tsx';

/** Says at the top of the tray that the second witness is still to come. */
export function SpeechPending() {
  const ready = useEpisode((s) => s.detail === undefined || isMeasured(s.detail, 'speech'));
  const job = useEpisode((s) => jobOf(s.detail?.jobs, 'speech'));
  if (ready) return null;
  return (
    <p className="border-base-300 border-b py-1 text-xs leading-tight">
      {job && isUnderWay(job)
        ? `Listening for speech, ${Math.floor(job.progress * 100)} %: pauses go by level until then.`
        : 'Pauses go by level alone; see What counts as silence.'}
    </p>
  );
}

/** The second witness: how far it is, what it does, and how to see it. */
export function SpeechMeasure() {
  const model = useModel();
  const ready = useEpisode((s) => isMeasured(s.detail, 'speech'));
  const job = useEpisode((s) => jobOf(s.detail?.jobs, 'speech'));
  if (ready)
    return (
      <>
        <SettingChoice name="voice" labels={{ join: 'joins in', ignore: 'level alone' }} />
        <CommandButton id="speech">Speech curve</CommandButton>
      </>
    );
  if (job && isUnderWay(job))
    return (
      <JobProgress job={job} waiting="Speech: waiting its turn" running="Listening for speech">
        <p className="mt-1 text-xs leading-tight quiet">Pauses go by level until then, and are refined after.</p>
      </JobProgress>
    );
  return (
    <div className="py-1 text-sm">
      <p>{job?.error ?? 'Speech is not measured: pauses go by level alone.'}</p>
      <button type="button" className="btn btn-xs mt-1" onClick={() => void api.retry(model.id).then(() => model.refresh())}>
        {job?.state === 'cancelled' ? 'Go on measuring' : 'Measure speech'}
      </button>
    </div>
  );
}
