import { Archive, AudioLines, Film, Pencil, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { v4 as uuid } from 'uuid';
import { type CutTrouble, type EpisodeSummary, type JobView, KEPT_DAYS } from '@/core/contract/messages.ts';
import { formatClock } from '@/core/time/clock.ts';
import { Dialog } from '@/ui/Dialog.tsx';
import { Measure } from '@/ui/Measure.tsx';
import { api } from '../api.ts';
import { entryName } from '../entryNames.ts';
import { Silhouette } from './Silhouette.tsx';

interface Props {
  readonly episode: EpisodeSummary;
  readonly onChange: () => void;
}

interface CardProps extends Props {
  readonly isChosen: boolean;
  readonly onChoose: (isChosen: boolean) => void;
}

/** One episode on the shelf: what it is, how far it is, what is still open. */
export function EpisodeCard({ episode, onChange, isChosen, onChoose }: CardProps) {
  const [dialog, setDialog] = useState<'rename' | 'remove'>();
  const { id, title, fileName, duration, hasVideo, hasWords, tracks, recordings, summary, isCurrent } = episode;
  const Icon = hasVideo ? Film : AudioLines;
  const close = () => setDialog(undefined);
  return (
    <li className="rounded border border-base-300 bg-base-200">
      <div className="flex flex-wrap items-start gap-x-4 gap-y-2 p-4 pb-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm mt-1.5 shrink-0"
          aria-label={`Choose ${title}`}
          checked={isChosen}
          onChange={(event) => onChoose(event.target.checked)}
        />
        <Icon size={22} aria-hidden className="mt-1 shrink-0" />
        <div className="min-w-40 flex-1">
          <a href={`/episodes/${id}`} className="font-serif text-xl hover:underline">
            {title}
          </a>
          <p className="truncate text-sm quiet">
            <bdi>{fileName}</bdi>
            {recordings > 1 && ` and ${recordings - 1} more`} · {tracks === 1 ? 'one track' : `${tracks} tracks`} ·{' '}
            {hasWords ? 'with words' : 'no words yet'}
          </p>
        </div>
        {summary && (
          <dl
            className={`flex shrink-0 gap-5 text-right ${isCurrent ? '' : 'quiet'}`}
            aria-busy={!isCurrent}
            title={isCurrent ? undefined : 'As it was: what was decided since is being worked out'}
          >
            {(
              [
                [formatClock(summary.recorded), 'recorded'],
                [formatClock(summary.programme), 'programme'],
                [String(summary.seams), 'seams'],
                [String(summary.open), 'still open'],
              ] as const
            ).map(([value, name]) => (
              <div key={name}>
                <dd className="tabular text-lg leading-tight">{value}</dd>
                <dt className="text-xs quiet">{name}</dt>
              </div>
            ))}
          </dl>
        )}
        <div className="flex shrink-0">
          <button
            type="button"
            className="btn btn-ghost btn-sm btn-square"
            aria-label={`Keep ${title} as a file`}
            title="Keep as a file: recordings, words and all that was decided"
            onClick={() => location.assign(api.archive(id))}
          >
            <Archive size={15} aria-hidden />
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-sm btn-square"
            aria-label={`Rename ${title}`}
            onClick={() => setDialog('rename')}
          >
            <Pencil size={15} aria-hidden />
          </button>
          <button
            type="button"
            className="btn btn-ghost btn-sm btn-square"
            aria-label={`Remove ${title}`}
            onClick={() => setDialog('remove')}
          >
            <Trash2 size={15} aria-hidden />
          </button>
        </div>
      </div>
      {episode.trouble && <Trouble {...{ episode, onChange }} trouble={episode.trouble} />}
      <div className="px-4 pb-3">
        {episode.measured ? (
          <Silhouette mediaId={episode.mediaId} duration={duration} tracks={tracks} />
        ) : (
          <Progress {...{ episode, onChange }} />
        )}
      </div>
      {dialog === 'rename' && <Rename {...{ episode, onChange }} onClose={close} />}
      {dialog === 'remove' && <Remove {...{ episode, onChange }} onClose={close} />}
    </li>
  );
}

const counted = (count: number): string => count.toLocaleString('en');

/** The cut cannot be worked out: why, and what can be done about it. */
function Trouble({ episode, trouble, onChange }: Props & { trouble: CutTrouble }) {
  const { why, entry } = trouble;
  return (
    <div role="alert" className="mx-4 mb-2 flex items-center gap-3 rounded border border-error p-2 text-sm">
      <p className="grow">
        The cut cannot be worked out. {why}{' '}
        {entry
          ? `What asks the most is entry ${entry.seq} of what was decided: ${entryName(entry.type).toLowerCase()}, ${counted(entry.places)} places and ${counted(entry.words)} words.`
          : 'All that was decided is still there.'}
      </p>
      {entry && (
        <button
          type="button"
          className="btn btn-outline btn-sm"
          title="Takes it back, as undo does. It stays in the log."
          onClick={() => void api.append(episode.id, [{ id: uuid(), type: 'undo', target: entry.id }]).finally(onChange)}
        >
          Set it aside
        </button>
      )}
    </div>
  );
}

const DOING: Readonly<Record<JobView['kind'], string>> = {
  measure: 'Measuring levels',
  proxy: 'Making the picture ready',
  speech: 'Listening for speech',
  motion: 'Watching the picture',
  voice: 'Listening for held sounds',
  echoes: 'Listening for lines said again',
  across: 'Listening for lines said again in the next recording',
  recognise: 'Recognising words',
  place: 'Finding where words are said',
  corrections: 'Finding corrected words',
  render: 'Rendering',
  clean: 'Cleaning the sound',
  speakers: 'Listening to the voices',
  together: 'Bringing files together',
};

function Progress({ episode, onChange }: Props) {
  const job = episode.jobs.find((candidate) => candidate.kind === 'measure');
  if (!job) return null;
  if (job.state === 'running' || job.state === 'queued')
    return (
      <div className="flex items-end gap-3">
        <div className="grow">
          <Measure
            label={job.state === 'queued' ? (job.error ?? 'Waiting for its turn') : DOING[job.kind]}
            share={job.progress}
            remaining={job.remaining}
          />
        </div>
        <button type="button" className="btn btn-sm" onClick={() => void api.cancelJob(job.id).finally(onChange)}>
          Cancel
        </button>
      </div>
    );
  return (
    <div className="flex items-center gap-3 text-sm">
      <p className="grow">{job.error ?? 'Measuring was cancelled. The recording is safe.'}</p>
      <button type="button" className="btn btn-sm" onClick={() => void api.retry(episode.id).finally(onChange)}>
        Measure again
      </button>
    </div>
  );
}

function Rename({ episode, onChange, onClose }: Props & { onClose: () => void }) {
  const [title, setTitle] = useState(episode.title);
  return (
    <Dialog title="Rename" onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void api.rename(episode.id, title).finally(onChange);
          onClose();
        }}
      >
        <input
          className="input w-full"
          aria-label="Title"
          maxLength={200}
          required
          value={title}
          onChange={(event) => setTitle(event.target.value)}
        />
        <button type="submit" className="btn btn-primary mt-3" disabled={!title.trim()}>
          Rename
        </button>
      </form>
    </Dialog>
  );
}

function Remove({ episode, onChange, onClose }: Props & { onClose: () => void }) {
  return (
    <Dialog title="Remove this episode?" onClose={onClose}>
      <p>
        “{episode.title}” goes from the shelf with its words and all decisions about it. For {KEPT_DAYS.removed} days it can be
        brought back, from the end of this page. Your own copy of <bdi>{episode.fileName}</bdi> is not touched.
      </p>
      <div className="mt-4 flex gap-2">
        <button
          type="button"
          className="btn btn-error"
          onClick={() => {
            void api.remove(episode.id).finally(onChange);
            onClose();
          }}
        >
          Remove
        </button>
        <button type="button" className="btn" onClick={onClose}>
          Keep it
        </button>
      </div>
    </Dialog>
  );
}
