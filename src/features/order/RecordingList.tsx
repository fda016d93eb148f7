import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { ArrowDown, ArrowUp, FilePlus, FolderOpen, GripVertical, Layers2 } from 'lucide-react';
import { type DragEvent, useMemo, useState } from 'react';
import type { RecordingDetail } from '@/core/contract/messages.ts';
import type { Recording } from '@/core/sources/recording.ts';
import { formatClock } from '@/core/time/clock.ts';
import { FileButton } from '@/ui/FileButton.tsx';
import { api } from '../api.ts';
import { jobOf, onClock } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { isUnderWay, JobProgress } from '../episode/workbench/JobProgress.tsx';
import { FolderDialog } from '../intake/FolderDialog.tsx';
import { IncomingList } from '../intake/IncomingList.tsx';
import { bringAll } from '../intake/uploads.ts';
import { placeRecording, recordingsInOrder, setPresent } from './arranging.ts';
import { TogetherDialog } from './TogetherDialog.tsx';
import { TogetherFiles } from './TogetherFiles.tsx';

const client = new QueryClient();

/** The recordings in the order in which they are heard, those removed, and a way to add more. */
export function RecordingList() {
  const model = useModel();
  const detail = useEpisode((s) => s.detail);
  const recordings = useEpisode((s) => s.recordings);
  const decisions = useEpisode((s) => s.decisions);
  const [dragged, setDragged] = useState<string>();
  const [over, setOver] = useState<number>();
  const [choosing, setChoosing] = useState(false);
  const ordered = useMemo(() => recordingsInOrder({ recordings, decisions }), [recordings, decisions]);
  if (!detail) return null;
  const named = (id: string) => detail.recordings.find((one) => one.id === id) as RecordingDetail;
  const removed = detail.recordings.filter(({ id }) => decisions.removed.includes(id));
  const waiting = detail.recordings.filter(({ measured }) => !measured);
  const drop = (event: DragEvent, index: number) => {
    event.preventDefault();
    const moved = ordered.find(({ id }) => id === dragged);
    const from = ordered.findIndex(({ id }) => id === dragged);
    if (moved && index !== from && index !== from + 1) placeRecording(model, moved, index > from ? index - 1 : index);
    setDragged(undefined);
    setOver(undefined);
  };
  return (
    <section className="pt-2" aria-label="Recordings">
      <h2 className="mb-1 font-semibold text-sm">{ordered.length === 1 ? 'One recording' : `${ordered.length} recordings`}</h2>
      <ol
        aria-label="Recordings in their order"
        onDragOver={(event) => dragged !== undefined && event.preventDefault()}
        onDrop={(event) => over !== undefined && drop(event, over)}
      >
        {ordered.map((recording, k) => (
          <RecordingRow
            key={recording.id}
            {...{ recording, k }}
            detail={named(recording.id)}
            count={ordered.length}
            isOver={over === k ? 'above' : over === k + 1 && k === ordered.length - 1 ? 'below' : undefined}
            onDrag={setDragged}
            onOver={setOver}
          />
        ))}
      </ol>
      {removed.map(({ id, fileName, duration }) => (
        <div key={id} className="flex items-center gap-2 py-1 text-sm">
          <bdi className="min-w-0 grow truncate line-through" style={{ color: 'var(--ink-out)' }}>
            {fileName}
          </bdi>
          <span className="tabular text-xs">{formatClock(duration)}</span>
          <button
            type="button"
            className="btn btn-xs"
            aria-label={`Put ${fileName} back`}
            onClick={() => setPresent(model, id, true)}
          >
            Put back
          </button>
        </div>
      ))}
      {waiting.map(({ id, fileName, mediaId }) => {
        const job = jobOf(
          detail.jobs.filter((one) => one.mediaId === mediaId),
          'measure',
        );
        return (
          <div key={id} className="py-1 text-sm">
            {job && isUnderWay(job) ? (
              <JobProgress job={job} waiting={`${fileName}: waiting for its turn`} running={`Measuring ${fileName}`} />
            ) : (
              <p>
                <bdi>{fileName}</bdi>: {job?.error ?? 'not measured.'}
              </p>
            )}
          </div>
        );
      })}
      <IncomingList />
      <div className="mt-1 flex items-center gap-2">
        <FileButton
          label="Recordings to add"
          accept="audio/*,video/*,.mka,.mkv,.flac,.opus"
          multiple
          onFiles={(files) => bringAll(files, { episode: model.id }, () => void model.refresh())}
        >
          <FilePlus size={14} aria-hidden /> Add recordings
        </FileButton>
        {detail.mediaFolder && (
          <button type="button" className="btn btn-xs" onClick={() => setChoosing(true)}>
            <FolderOpen size={14} aria-hidden /> From the media folder
          </button>
        )}
      </div>
      <p className="mt-1 text-xs quiet">Or drop them on this page.</p>
      {choosing && (
        <QueryClientProvider client={client}>
          <FolderDialog
            onClose={() => setChoosing(false)}
            onUse={async (entry) => {
              await api.addRecording(model.id, { from: 'folder', entry });
              await model.refresh();
            }}
          />
        </QueryClientProvider>
      )}
    </section>
  );
}

interface RowProps {
  readonly recording: Recording;
  readonly detail: RecordingDetail;
  readonly k: number;
  readonly count: number;
  readonly isOver: 'above' | 'below' | undefined;
  readonly onDrag: (id: string | undefined) => void;
  readonly onOver: (index: number) => void;
}

function RecordingRow({ recording, detail, k, count, isOver, onDrag, onOver }: RowProps) {
  const model = useModel();
  const [adding, setAdding] = useState(false);
  const { fileName, duration } = detail;
  return (
    <li
      className={`py-0.5 text-sm ${isOver === 'above' ? 'border-primary border-t-2' : ''} ${isOver === 'below' ? 'border-primary border-b-2' : ''}`}
      draggable={count > 1}
      onDragStart={(event) => {
        event.dataTransfer.effectAllowed = 'move';
        onDrag(recording.id);
      }}
      onDragEnd={() => onDrag(undefined)}
      onDragOver={(event) => {
        const box = event.currentTarget.getBoundingClientRect();
        onOver(event.clientY > box.top + box.height / 2 ? k + 1 : k);
      }}
    >
      <div className="flex items-center gap-1">
        {count > 1 && <GripVertical size={14} aria-hidden className="shrink-0 cursor-grab quiet" />}
        <button
          type="button"
          className="min-w-0 grow cursor-pointer truncate text-left hover:underline"
          title={`${fileName}: ${factsOf(detail)}`}
          onClick={() => model.reveal(onClock(detail).start, undefined, true)}
        >
          <bdi>{fileName}</bdi>
        </button>
        <span className="tabular shrink-0 text-xs">{formatClock(duration)}</span>
        {count > 1 && (
          <>
            <button
              type="button"
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Move ${fileName} up`}
              disabled={k === 0}
              onClick={() => placeRecording(model, recording, k - 1)}
            >
              <ArrowUp size={13} aria-hidden />
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Move ${fileName} down`}
              disabled={k === count - 1}
              onClick={() => placeRecording(model, recording, k + 1)}
            >
              <ArrowDown size={13} aria-hidden />
            </button>
            <button
              type="button"
              className="btn btn-xs"
              aria-label={`Remove ${fileName}`}
              onClick={() => setPresent(model, recording.id, false)}
            >
              Remove
            </button>
          </>
        )}
        <button
          type="button"
          className="btn btn-ghost btn-xs btn-square"
          aria-label={`Add a file that ran together with ${fileName}`}
          title="Add a file that ran together with it"
          onClick={() => setAdding(true)}
        >
          <Layers2 size={14} aria-hidden />
        </button>
      </div>
      <TogetherFiles detail={detail} />
      {adding && <TogetherDialog detail={detail} onClose={() => setAdding(false)} />}
    </li>
  );
}

function factsOf({ facts: { video, audio } }: RecordingDetail): string {
  const tracks = audio.length === 1 ? 'one track' : `${audio.length} tracks`;
  return video ? `${video.width} × ${video.height}, ${video.rate} frames a second, ${tracks}` : tracks;
}
