import { useEffect, useState } from 'react';
import { Later } from '@/ui/Later.tsx';
import { Measure } from '@/ui/Measure.tsx';
import { api } from '../../api.ts';
import { PausesTray } from '../../pauses/PausesTray.tsx';
import { Score } from '../../score/Score.tsx';
import { TRAY_NAMES, TRAYS, type TrayName } from '../../trays.ts';
import { openEpisode } from '../session/boot.ts';
import type { EpisodeModel } from '../session/model.ts';
import { jobOf } from '../session/recordings.ts';
import { ModelProvider, useEpisode, useModel } from '../session/useEpisode.ts';
import { FileTrouble } from './FileTrouble.tsx';
import { fetchParts, KeysDialog, Palette, ReadingView, RefusedDialog, trayPanel } from './lazyPanels.ts';
import { Masthead } from './Masthead.tsx';
import { PicturePlace } from './PicturePlace.tsx';
import { SelectionBar } from './SelectionBar.tsx';
import { Transport } from './Transport.tsx';
import { useKeys } from './useKeys.ts';
import { useTrayWidth } from './useTrayWidth.ts';

/** The page of one episode: score, trays, picture, transport. */
export function EpisodeScreen({ id }: { id: string }) {
  const [model] = useState(() => openEpisode(id));
  useKeys(model);
  return (
    <ModelProvider value={model}>
      <Layout />
    </ModelProvider>
  );
}

/** Words go to the Words tray, recordings to the Order tray. */
async function takeDropped(model: EpisodeModel, files: readonly File[]): Promise<void> {
  const [{ bringAll }, { bringWords, holdsWords }] = await Promise.all([
    import('../../intake/uploads.ts'),
    import('../../intake/words.ts'),
  ]);
  const words = files.find(holdsWords);
  model.show({ tray: words ? 'words' : 'order' });
  bringAll(
    files.filter((file) => !holdsWords(file)),
    { episode: model.id },
    () => void model.refresh(),
  );
  if (words) await bringWords(model, words);
}

function Layout() {
  const model = useModel();
  const error = useEpisode((s) => s.error);
  const dialog = useEpisode((s) => s.dialog);
  const measured = useEpisode((s) => s.detail && s.recordings.length > 0);
  const reading = useEpisode((s) => s.reading);
  const isWhole = useEpisode((s) => s.isWhole);
  useEffect(() => {
    if (isWhole) fetchParts();
  }, [isWhole]);
  if (error !== undefined)
    return (
      <main className="grid h-full place-items-center p-8 text-center">
        <div>
          <h1 className="font-serif text-2xl">This episode cannot be opened</h1>
          <p className="my-3">{error}</p>
          <a className="btn btn-primary" href="/">
            Back to the shelf
          </a>
        </div>
      </main>
    );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is a short cut for the buttons in the Order and Words trays
    <div
      className="flex h-dvh flex-col overflow-clip"
      onDragOver={(event) => event.dataTransfer.types.includes('Files') && event.preventDefault()}
      onDrop={(event) => {
        if (event.dataTransfer.files.length === 0) return;
        event.preventDefault();
        void takeDropped(model, [...event.dataTransfer.files]);
      }}
    >
      <Masthead />
      <FileTrouble />
      <main className="flex min-h-0 grow max-sm:flex-col">
        <div className="flex min-h-0 min-w-0 grow flex-col">
          <div className="flex min-h-0 grow">
            <Later>{measured === false ? <Measuring /> : reading === 'words' ? <ReadingView /> : <Score />}</Later>
          </div>
          <SelectionBar />
        </div>
        <Side />
      </main>
      <Transport />
      <Later key={dialog}>
        {dialog === 'keys' && <KeysDialog onClose={() => model.show({ dialog: undefined })} />}
        {dialog === 'refused' && <RefusedDialog onClose={() => model.show({ dialog: undefined })} />}
        {dialog === 'palette' && <Palette onClose={() => model.show({ dialog: undefined })} />}
      </Later>
    </div>
  );
}

/** Picture and trays, as wide as they were last pulled. */
function Side() {
  const { width, ...edge } = useTrayWidth();
  const isHalf = useEpisode((s) => s.picture === 'half');
  return (
    <aside
      className={`relative flex shrink-0 flex-col border-base-300 border-l bg-base-200 max-sm:h-3/5 max-sm:w-full max-sm:border-t ${isHalf ? 'w-1/2' : 'w-(--tray)'}`}
      style={{ '--tray': `${width}px` } as React.CSSProperties}
      aria-label="Picture and trays"
    >
      <hr {...edge} />
      <PicturePlace />
      <Trays />
    </aside>
  );
}

/** The score opens with its pauses: their script is there, and nobody waits for it. */
const panelOf = (tray: TrayName): React.ComponentType => (tray === 'pauses' ? PausesTray : trayPanel(tray));

function Trays() {
  const model = useModel();
  const tray = useEpisode((s) => s.tray);
  const Tray = panelOf(tray);
  return (
    <>
      <div role="tablist" aria-label="Trays" className="tabs tabs-border shrink-0 border-base-300 border-b">
        {TRAY_NAMES.map((name, k) => (
          <button
            key={name}
            type="button"
            role="tab"
            id={`tab-${name}`}
            aria-selected={tray === name}
            aria-controls="tray"
            tabIndex={tray === name ? 0 : -1}
            onKeyDown={(event) => {
              const to = tabBeside(event.key, k);
              if (to === undefined) return;
              event.preventDefault();
              model.show({ tray: TRAY_NAMES[to] as TrayName });
              document.getElementById(`tab-${TRAY_NAMES[to]}`)?.focus();
            }}
            className={`tab px-2 ${tray === name ? 'tab-active font-semibold' : ''}`}
            style={{ color: 'var(--color-base-content)' }}
            onClick={() => model.show({ tray: name })}
          >
            {TRAYS[name].label}
          </button>
        ))}
      </div>
      <div
        role="tabpanel"
        id="tray"
        aria-labelledby={`tab-${tray}`}
        className="@container relative min-h-0 grow scroll-pb-16 overflow-y-auto"
      >
        <Later key={tray}>
          <Tray />
        </Later>
      </div>
    </>
  );
}

/** Where the keys for tabs lead, round from one end to the other. */
function tabBeside(key: string, at: number): number | undefined {
  const count = TRAY_NAMES.length;
  const to: Readonly<Record<string, number>> = { ArrowRight: at + 1, ArrowLeft: at - 1, Home: 0, End: count - 1 };
  const place = to[key];
  return place === undefined ? undefined : (place + count) % count;
}

/** Until a recording is measured there is no score: how far that is, and what can be done about it. */
function Measuring() {
  const model = useModel();
  const job = useEpisode((s) => jobOf(s.detail?.jobs, 'measure'));
  const going = job?.state === 'running' || job?.state === 'queued';
  return (
    <section className="grid min-w-0 grow place-items-center p-8">
      <div className="w-full max-w-md">
        <h2 className="mb-2 font-serif text-xl">{going ? 'Listening to the recording' : 'Not measured'}</h2>
        {going && job ? (
          <>
            <Measure
              label={job.state === 'queued' ? (job.error ?? 'Waiting for its turn') : 'Measuring levels'}
              share={job.progress}
              remaining={job.remaining}
            />
            <p className="mt-2 text-sm quiet">You can leave this page; it goes on.</p>
            <button type="button" className="btn btn-sm mt-3" onClick={() => void api.cancelJob(job.id)}>
              Cancel
            </button>
          </>
        ) : (
          <>
            <p>{job?.error ?? 'Measuring was cancelled. The recording itself is safe.'}</p>
            <button
              type="button"
              className="btn btn-primary btn-sm mt-3"
              onClick={() => void api.retry(model.id).then(() => model.refresh())}
            >
              Measure again
            </button>
          </>
        )}
      </div>
    </section>
  );
}
