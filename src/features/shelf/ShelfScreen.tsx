import { QueryClient, QueryClientProvider, useQuery, useQueryClient } from '@tanstack/react-query';
import { FolderOpen, Upload as UploadIcon } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { ThemeSwitch } from '@/ui/ThemeSwitch.tsx';
import { api } from '../api.ts';
import { listen } from '../events.ts';
import { FolderDialog } from '../intake/FolderDialog.tsx';
import { IncomingList } from '../intake/IncomingList.tsx';
import { UnfinishedList } from '../intake/UnfinishedList.tsx';
import { bringAll, bringInARow, bringInSync, refuse } from '../intake/uploads.ts';
import { holdsWords } from '../intake/words.ts';
import { BatchBar } from './BatchBar.tsx';
import { EpisodeCard } from './EpisodeCard.tsx';
import { RemovedList } from './RemovedList.tsx';
import { SeveralDialog } from './SeveralDialog.tsx';
import { SignedIn } from './SignedIn.tsx';

const client = new QueryClient();
/** A shelf that could not be read is asked for again. */
const AGAIN_MS = 3000;

export function ShelfScreen() {
  return (
    <QueryClientProvider client={client}>
      <Shelf />
    </QueryClientProvider>
  );
}

function Shelf() {
  const queries = useQueryClient();
  const { data, error } = useQuery({
    queryKey: ['shelf'],
    queryFn: api.shelf,
    refetchInterval: ({ state }) => (state.error ? AGAIN_MS : false),
  });
  const [choosing, setChoosing] = useState(false);
  const [over, setOver] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [several, setSeveral] = useState<readonly File[]>();
  const input = useRef<HTMLInputElement>(null);
  const renew = () => void queries.invalidateQueries({ queryKey: ['shelf'] });

  useEffect(() => listen(renew), []);

  const take = (list: FileList | null) => {
    const dropped = [...(list ?? [])];
    const files = dropped.filter((file) => !holdsWords(file));
    for (const file of dropped.filter(holdsWords))
      refuse(file, 'Words belong to an episode: once its recording is here, drop them on its page.');
    if (files.length > 1) setSeveral(files);
    else bringAll(files, {}, renew);
  };
  const empty = data?.episodes.length === 0;

  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is a short cut for the button
    <div
      className="min-h-dvh"
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        take(event.dataTransfer.files);
      }}
    >
      <header className="flex items-center gap-3 border-base-300 border-b px-6 py-3">
        <img src="/favicon.svg" alt="" width={30} height={30} />
        <h1 className="grow font-serif text-2xl">Zetemis</h1>
        {data?.signedIn && <SignedIn name={data.signedIn} />}
        <ThemeSwitch />
      </header>
      <main className="mx-auto max-w-5xl px-6 py-6">
        <section
          aria-label="Bring in a recording"
          className={`mb-6 flex flex-wrap items-center gap-4 rounded border-2 border-dashed p-5 ${over ? 'border-accent bg-base-200' : 'border-base-300'}`}
        >
          <div className="min-w-60 grow">
            <h2 className="font-serif text-xl">{empty ? 'Bring in your first recording' : 'Bring in a recording'}</h2>
            <p className="text-sm">
              Drop audio or video anywhere on this page: wav, flac, mp3, m4a, ogg, opus, mp4, mov, mkv, webm; or an episode that
              was kept as a file.
            </p>
          </div>
          <input
            ref={input}
            type="file"
            multiple
            accept="audio/*,video/*,.mka,.mkv,.flac,.opus,.tar"
            className="sr-only"
            tabIndex={-1}
            aria-label="Recording to upload"
            onChange={(event) => {
              take(event.target.files);
              event.target.value = '';
            }}
          />
          <button type="button" className="btn btn-primary" onClick={() => input.current?.click()}>
            <UploadIcon size={17} aria-hidden /> Choose files
          </button>
          {data?.mediaFolder && (
            <button type="button" className="btn" onClick={() => setChoosing(true)}>
              <FolderOpen size={17} aria-hidden /> From the media folder
            </button>
          )}
        </section>
        <IncomingList />
        <UnfinishedList uploads={data?.unfinished ?? []} onChange={renew} />
        {error && (
          <p role="alert" className="mb-4 rounded border border-error p-3">
            The shelf cannot be read: {error.message}
          </p>
        )}
        <ul className="grid gap-4" aria-label="Episodes">
          {data?.episodes.map((episode) => (
            <EpisodeCard
              key={episode.id}
              episode={episode}
              onChange={renew}
              isChosen={chosen.has(episode.id)}
              onChoose={(isChosen) =>
                setChosen((before) => new Set(isChosen ? [...before, episode.id] : [...before].filter((id) => id !== episode.id)))
              }
            />
          ))}
        </ul>
        <RemovedList removed={data?.removed ?? []} onChange={renew} />
        <BatchBar
          chosen={data?.episodes.filter(({ id }) => chosen.has(id)) ?? []}
          onAll={() => setChosen(new Set(data?.episodes.map(({ id }) => id)))}
          onNone={() => setChosen(new Set())}
        />
      </main>
      {several && (
        <SeveralDialog
          files={several}
          onOne={() => bringInARow(several, renew)}
          onInSync={() => bringInSync(several, renew)}
          onEach={() => bringAll(several, {}, renew)}
          onClose={() => setSeveral(undefined)}
        />
      )}
      {choosing && (
        <FolderDialog
          onClose={() => setChoosing(false)}
          onUse={async (entry) => {
            await api.create({ from: 'folder', entry });
            renew();
          }}
        />
      )}
    </div>
  );
}
