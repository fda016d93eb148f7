import { Download, Play, RotateCcw, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { isOfPicture } from '@/core/render/choices.ts';
import type { RenderView } from '@/core/render/messages.ts';
import { formatClock } from '@/core/time/clock.ts';
import { spokenBytes } from '@/ui/bytes.ts';
import { Dialog } from '@/ui/Dialog.tsx';
import { type Message, Said } from '@/ui/Said.tsx';
import { api } from '../api.ts';
import { isUnderWay, JobProgress } from '../episode/workbench/JobProgress.tsx';

interface Props {
  readonly renders: readonly RenderView[];
  readonly onChange: () => void;
}

/** Files that were rendered, and those on their way. */
export function RenderRows({ renders, onChange }: Props) {
  const [said, setSaid] = useState<Message>();
  const [shown, setShown] = useState<RenderView>();
  const doing = (work: Promise<unknown>) =>
    void work
      .then(() => setSaid(undefined))
      .catch((problem) => setSaid({ text: (problem as Error).message, bad: true }))
      .finally(onChange);
  if (renders.length === 0) return null;
  return (
    <section className="mt-3" aria-label="Rendered files">
      <h2 className="font-semibold">Rendered</h2>
      <ul>
        {renders.map((render) => (
          <Row key={render.id} render={render} onDo={doing} onPlay={() => setShown(render)} />
        ))}
      </ul>
      <Said message={said} />
      {shown && (
        <Dialog title={shown.name} onClose={() => setShown(undefined)}>
          {isOfPicture(shown.choices.format) ? (
            // biome-ignore lint/a11y/useMediaCaption: captions are in the file where they were wanted
            <video controls autoPlay className="max-h-[70vh] w-full bg-black" src={api.rendered(shown.id, true)} />
          ) : (
            // biome-ignore lint/a11y/useMediaCaption: captions are in the file where they were wanted
            <audio controls autoPlay className="w-full" src={api.rendered(shown.id, true)} />
          )}
        </Dialog>
      )}
    </section>
  );
}

interface RowProps {
  readonly render: RenderView;
  readonly onDo: (work: Promise<unknown>) => void;
  readonly onPlay: () => void;
}

function Row({ render, onDo, onPlay }: RowProps) {
  const { id, name, job, made } = render;
  const isGoingOn = job !== null && isUnderWay(job);
  return (
    <li className="border-base-300 border-t py-1.5" data-render={isGoingOn ? 'under way' : made ? 'there' : 'not there'}>
      <div className="break-words font-semibold">
        <bdi>{name}</bdi>
      </div>
      {isGoingOn && <JobProgress job={job} waiting="Waiting for its turn" running="Rendering" />}
      {!isGoingOn && !made && (
        <p className={`text-xs leading-snug ${job?.state === 'failed' ? 'text-error' : 'quiet'}`}>
          {job?.state === 'failed' ? (job.error ?? 'It could not be rendered.') : 'It was stopped, and goes on where it was.'}
        </p>
      )}
      {made && !isGoingOn && <Made made={made} isLevelled={render.choices.loudness !== null} />}
      {!isGoingOn && (
        <div className="mt-1 flex flex-wrap gap-1">
          {made && (
            <>
              <a className="btn btn-primary btn-xs" href={api.rendered(id)} download={name}>
                <Download size={12} aria-hidden /> Save
              </a>
              <button type="button" className="btn btn-outline btn-xs" onClick={onPlay}>
                <Play size={12} aria-hidden /> Play it
              </button>
            </>
          )}
          {(!made || made.isOld) && (
            <button type="button" className="btn btn-outline btn-xs" onClick={() => onDo(api.renderAgain(id))}>
              <RotateCcw size={12} aria-hidden /> {made ? 'Render again' : job?.state === 'cancelled' ? 'Go on' : 'Try again'}
            </button>
          )}
          <button
            type="button"
            className="btn btn-ghost btn-xs"
            aria-label={`Delete ${name}`}
            onClick={() => onDo(api.removeRender(id))}
          >
            <Trash2 size={12} aria-hidden /> Delete
          </button>
        </div>
      )}
    </li>
  );
}

function Made({ made, isLevelled }: { readonly made: NonNullable<RenderView['made']>; readonly isLevelled: boolean }) {
  const { bytes, length, isOld, before, after } = made;
  return (
    <>
      <p className="tabular text-xs">
        {formatClock(length, true)}, {spokenBytes(bytes)}
      </p>
      {after && (
        <p className="tabular text-xs quiet">
          {isLevelled && before && `${before.integrated.toFixed(1)} LUFS before, `}
          {after.integrated.toFixed(1)} LUFS{isLevelled ? ' now' : ''}, range {after.range.toFixed(1)} LU, peak{' '}
          {after.truePeak.toFixed(1)} dB
        </p>
      )}
      {isOld && <p className="text-xs text-warning">Older than your last change.</p>}
    </>
  );
}
