import { Download } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import type { HandoffView } from '@/core/contract/messages.ts';
import { formatClock } from '@/core/time/clock.ts';
import { parseRate, spokenRate } from '@/core/time/rate.ts';
import { api } from '../api.ts';
import { UnmetList } from '../episode/review/UnmetList.tsx';
import { isMeasured } from '../episode/session/recordings.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { partsOfEpisode } from '../order/arranging.ts';
import { WordsOut } from './WordsOut.tsx';

const RATES = ['24000/1001', '24/1', '25/1', '30000/1001', '30/1', '50/1', '60000/1001', '60/1'] as const;

/** In what form? What a hand-off will hold is said before anything is downloaded. */
export function HandoffTray() {
  const model = useModel();
  const measured = useEpisode((s) => isMeasured(s.detail, 'measure'));
  const saved = useEpisode((s) => s.save === 'saved');
  const cut = useEpisode((s) => s.cut);
  const decisions = useEpisode((s) => s.decisions);
  const parts = useMemo(() => partsOfEpisode({ cut, decisions }), [cut, decisions]);
  const [rate, setRate] = useState<string>();
  const [wanted, setWanted] = useState<number>();
  const chapter = wanted !== undefined && wanted <= parts.length && parts.length > 1 ? wanted : undefined;
  const [view, setView] = useState<HandoffView>();
  const [error, setError] = useState<string>();

  useEffect(() => {
    if (!measured || !saved) return;
    let current = true;
    api
      .handoff(model.id, rate, chapter)
      .then((found) => {
        if (!current) return;
        setView(found);
        setError(undefined);
      })
      .catch((problem) => current && setError((problem as Error).message));
    return () => {
      current = false;
    };
  }, [model, measured, saved, cut, rate, chapter]);

  if (!measured) return <p className="p-4 text-sm">A cut list can be handed over once the recording is measured.</p>;
  if (error !== undefined)
    return (
      <p role="alert" className="p-4 text-error text-sm">
        {error}
      </p>
    );
  if (!view) return <p className="p-4 text-sm">Working out the timeline …</p>;
  return (
    <div className="p-3 text-sm">
      {view.warnings.map((warning) => (
        <p key={warning} role="alert" className="mb-3 rounded border border-error p-2">
          {warning}
        </p>
      ))}
      {view.open > 0 && (
        <p className="mb-3 rounded border border-warning p-2">
          {view.open === 1 ? 'One proposal is' : `${view.open} proposals are`} still open; what is open stays in.
        </p>
      )}
      <UnmetList />
      <dl className="mt-2 grid grid-cols-[7rem_1fr] gap-y-1" aria-label="What the cut list will hold">
        {parts.length > 1 && (
          <>
            <dt className="quiet">What</dt>
            <dd>
              <select
                className="select select-xs w-40"
                aria-label="What is handed off"
                value={chapter ?? ''}
                onChange={(event) => setWanted(event.target.value === '' ? undefined : Number(event.target.value))}
              >
                <option value="">the whole programme</option>
                {parts.map(({ number, title }) => (
                  <option key={number} value={number}>
                    {number}: {title}
                  </option>
                ))}
              </select>
            </dd>
          </>
        )}
        <dt className="quiet">Refers to</dt>
        <dd className="break-words">
          {view.clips.map(({ name, frameRate }, k) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: two files may have one name
            <div key={k}>
              <bdi>{name}</bdi>
              {frameRate && (
                <span className="text-xs quiet"> conformed: {spokenRate(parseRate(frameRate))} frames a second of its own</span>
              )}
            </div>
          ))}
        </dd>
        <dt className="quiet">Starts at</dt>
        <dd className="tabular">{view.startTimecode}</dd>
        <dt className="quiet">Frame rate</dt>
        <dd>
          <select
            className="tabular select select-xs w-40"
            aria-label="Frame rate of the timeline"
            value={view.rate}
            onChange={(event) => setRate(event.target.value)}
          >
            {[...new Set([view.rate, ...RATES])].map((value) => (
              <option key={value} value={value}>
                {spokenRate(parseRate(value))}
                {value === view.rate && view.ownRate ? ', its own' : ''}
              </option>
            ))}
          </select>
        </dd>
        <dt className="quiet">Counting</dt>
        <dd>{view.dropFrame ? 'drop-frame' : 'non-drop'}</dd>
        <dt className="quiet">Events</dt>
        <dd className="tabular" data-figure="events">
          {view.events}
        </dd>
        <dt className="quiet">Length</dt>
        <dd className="tabular">
          {view.lengthTimecode} ({formatClock(view.length, true)})
        </dd>
      </dl>
      <p className="mt-2 text-xs leading-snug quiet">{roundingText(view)}</p>
      {view.variable && (
        <p className="mt-2 rounded border border-warning p-2 text-xs">
          The footage has a variable frame rate. The list is conformed to {spokenRate(parseRate(view.rate))} frames a second; have
          your editing program read the footage at that rate.
        </p>
      )}
      <h3 className="mt-4 mb-1 font-semibold">Download</h3>
      <ul>
        {view.files.map((file) => (
          <li key={file.format} className="border-base-300 border-t py-2">
            <div className="font-semibold">{file.label}</div>
            <p className="mb-1 text-xs quiet">{file.refused ?? file.help}</p>
            {file.parts.map((part, index) => (
              <a
                key={part.name}
                className="btn btn-sm mr-1 mb-1 h-auto min-h-8 max-w-full justify-start py-1"
                href={api.handoffFile(model.id, file.format, index, rate, chapter)}
                download={part.name}
              >
                <Download size={14} aria-hidden className="shrink-0" />
                <span className="break-all text-left">{part.name}</span>
                <span className="tabular shrink-0 text-xs quiet">{sizeOf(part.bytes)}</span>
              </a>
            ))}
          </li>
        ))}
      </ul>
      <WordsOut />
    </div>
  );
}

function roundingText({ roundings, events }: HandoffView): string {
  const { vanished, added, largest } = roundings;
  const kept = `Edges move out to whole frames, so that no kept sound is lost: at most ${Math.round(largest * 1000)} ms each, ${added.toFixed(2)} s over ${events} events.`;
  if (vanished === 0) return kept;
  return `${kept} ${vanished === 1 ? 'One cut is' : `${vanished} cuts are`} shorter than a frame and stay in.`;
}

const sizeOf = (bytes: number) => (bytes < 1000 ? `${bytes} B` : `${(bytes / 1000).toFixed(bytes < 10_000 ? 1 : 0)} kB`);
