import { Check, X } from 'lucide-react';
import { useState } from 'react';
import type { SyncedBy, SyncedFile } from '@/core/contract/media.ts';
import type { ChangeTogether, RecordingDetail } from '@/core/contract/messages.ts';
import { recordingTime } from '@/core/sources/besideTime.ts';
import { formatClock } from '@/core/time/clock.ts';
import { api } from '../api.ts';
import { jobOf } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { isUnderWay, JobProgress } from '../episode/workbench/JobProgress.tsx';

/** Where a file was found to lie, and how sure that is. */
const FOUND: Readonly<Record<SyncedBy, string>> = {
  sound: 'by its sound',
  clock: 'by the time of day in both files: listen whether it fits',
  start: 'both begin at once, since nothing tells otherwise: look and listen whether that fits',
  hand: 'by hand',
};

/** What is left out of a file is told from so many seconds on. */
const LEAST_TOLD = 0.1;

/** The files that a recording is made of, where it is of several, and how they are being brought together. */
export function TogetherFiles({ detail }: { readonly detail: RecordingDetail }) {
  const model = useModel();
  const jobs = useEpisode((s) => s.detail?.jobs);
  const [problem, setProblem] = useState<string>();
  /** the job whose failure was read */
  const [dismissed, setDismissed] = useState<string>();
  const { facts, id, mediaId } = detail;
  const job = jobOf(
    jobs?.filter((one) => one.mediaId === mediaId),
    'together',
  );
  const told = problem ?? (job?.state === 'failed' && job.id !== dismissed ? job.error : undefined);
  const change = (wanted: ChangeTogether) => {
    setProblem(undefined);
    api.changeTogether(model.id, wanted).then(
      () => model.refresh(),
      (error: Error) => setProblem(error.message),
    );
  };
  return (
    <div className="pl-5 text-sm">
      {facts.together && (
        <ul aria-label={`Files of ${detail.fileName} that ran together`}>
          {facts.together.map((file, k) => (
            <FileRow
              key={file.id}
              file={file}
              whole={detail.duration}
              isFirst={k === 0}
              hasOwn={facts.video !== undefined}
              isAllHeard={file.sound && facts.together?.every((one) => one === file || !one.sound)}
              onPlace={(place) => change({ do: 'place', recording: id, file: k, place })}
              onRemove={() => change({ do: 'remove', recording: id, file: k })}
            />
          ))}
        </ul>
      )}
      {job && isUnderWay(job) && (
        <JobProgress job={job} waiting="Waiting to bring the files together" running="Bringing the files together" />
      )}
      {told && (
        <div role="alert" className="flex items-start gap-2 rounded border border-error p-2">
          <p className="grow">{told}</p>
          <button
            type="button"
            className="btn btn-xs"
            onClick={() => {
              setProblem(undefined);
              setDismissed(job?.id);
            }}
          >
            Dismiss
          </button>
        </div>
      )}
    </div>
  );
}

interface RowProps {
  readonly file: SyncedFile;
  /** seconds of the recording */
  readonly whole: number;
  readonly isFirst: boolean;
  /** the first of the files has a picture */
  readonly hasOwn: boolean;
  /** no other file is heard: where it did not run, nothing is */
  readonly isAllHeard: boolean | undefined;
  readonly onPlace: (seconds: number) => void;
  readonly onRemove: () => void;
}

function FileRow({ file, whole, isFirst, hasOwn, isAllHeard, onPlace, onRemove }: RowProps) {
  const { name, place, drift, by, sound, facts } = file;
  const [early, late] = [-place, recordingTime(file, facts.duration) - whole];
  const silent = [
    ...(isAllHeard && -early > LEAST_TOLD ? [`before ${formatClock(-early, true)}`] : []),
    ...(isAllHeard && -late > LEAST_TOLD ? [`after ${formatClock(whole + late, true)}`] : []),
  ];
  const [text, setText] = useState<string>();
  const wanted = Number(text?.trim().replace(',', '.'));
  const isChanged = text !== undefined && text.trim() !== '' && Number.isFinite(wanted) && wanted !== place;
  return (
    <li className="border-base-300 border-l-2 py-0.5 pl-2">
      <div className="flex items-center gap-1">
        <bdi className="min-w-0 grow truncate" title={name}>
          {name}
        </bdi>
        {!isFirst && (
          <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Take ${name} away`} onClick={onRemove}>
            <X size={13} aria-hidden />
          </button>
        )}
      </div>
      {isFirst ? (
        <p className="text-xs quiet">
          {sound ? 'The clock of the recording is its clock.' : 'Its picture and its clock; its sound is not used.'}
        </p>
      ) : (
        <>
          <form
            className="flex items-center gap-1 text-xs"
            onSubmit={(event) => {
              event.preventDefault();
              if (isChanged) onPlace(wanted);
              setText(undefined);
            }}
          >
            <label className="flex items-center gap-1">
              begins at
              <input
                className="input input-xs tabular w-20"
                inputMode="decimal"
                aria-label={`Second at which ${name} begins`}
                value={text ?? String(Math.round(place * 1000) / 1000)}
                onChange={(event) => setText(event.target.value)}
              />
              s
            </label>
            {isChanged && (
              <button type="submit" className="btn btn-primary btn-xs">
                <Check size={12} aria-hidden /> Move it there
              </button>
            )}
          </form>
          <p className="text-xs quiet">
            {FOUND[by]}
            {facts.video && hasOwn && '; its picture can be seen: choose it under the picture'}
            {facts.video && !hasOwn && '; its picture is not used: the first file has none, and a camera must come first'}
            {facts.audio.length === 0 ? '; it has no sound' : !sound && '; its sound is not used'}
            {drift !== 0 &&
              `; its clock, ${Math.abs(drift * 1e6).toFixed(0)} millionths too ${drift > 0 ? 'fast' : 'slow'}, is set right`}
            {silent.length > 0 && `; ${silent.join(' and ')} it did not run, and nothing is heard`}
            {early > LEAST_TOLD && `; its first ${early.toFixed(1)} s lie before the recording and are left out`}
            {late > LEAST_TOLD && `; its last ${late.toFixed(1)} s lie behind it and are left out`}
          </p>
        </>
      )}
    </li>
  );
}
