import { useState } from 'react';
import { useStore } from 'zustand';
import { KEPT_DAYS, type UnfinishedUpload } from '@/core/contract/messages.ts';
import { FileButton } from '@/ui/FileButton.tsx';
import { api } from '../api.ts';
import { goOn, incoming, sending } from './uploads.ts';

/** Another tab, or another machine, may be sending it just now. */
const STILL_SECONDS = 10;

interface Props {
  readonly uploads: readonly UnfinishedUpload[];
  readonly onChange: () => void;
}

/** Uploads that stopped on their way: to go on with, or to be thrown away. */
export function UnfinishedList({ uploads, onChange }: Props) {
  // What this page sends stands among what comes in.
  useStore(incoming, (state) => state.list.length);
  const own = new Set(sending());
  const stopped = uploads.filter(({ id, idle }) => idle >= STILL_SECONDS && !own.has(id));
  if (stopped.length === 0) return null;
  return (
    <section aria-label="Stopped on their way" className="mb-4 rounded border border-base-300 p-3 text-sm">
      <h2 className="mb-1 font-semibold">Stopped on their way</h2>
      <p className="mb-2 quiet">What was sent is kept for {KEPT_DAYS.upload} days.</p>
      <ul className="grid gap-2">
        {stopped.map((upload) => (
          <Stopped key={upload.id} upload={upload} onChange={onChange} />
        ))}
      </ul>
    </section>
  );
}

function Stopped({ upload, onChange }: { upload: UnfinishedUpload; onChange: () => void }) {
  const { id, name, bytes, received } = upload;
  const [problem, setProblem] = useState<string>();
  const isWhole = received >= bytes;
  const take = (file: File | undefined) => {
    if (!file) return;
    if (file.size !== bytes) {
      setProblem(`${file.name} is another file: it has ${megabytes(file.size)}, and ${name} has ${megabytes(bytes)}.`);
      return;
    }
    setProblem(undefined);
    goOn(file, id, onChange);
  };
  const settle = (work: Promise<unknown>) => void work.catch((error: Error) => setProblem(error.message)).finally(onChange);
  return (
    <li className="flex flex-wrap items-center gap-3">
      <p className="min-w-0 grow break-words">
        <bdi>{name}</bdi>: {isWhole ? 'sent whole, and not taken yet' : `${megabytes(received)} of ${megabytes(bytes)} sent`}
        {problem && (
          <span role="alert" className="block text-error">
            {problem}
          </span>
        )}
      </p>
      {isWhole ? (
        <button type="button" className="btn btn-sm" onClick={() => settle(api.create({ from: 'upload', upload: id }))}>
          Go on
        </button>
      ) : (
        <FileButton
          label={`Go on with ${name}`}
          accept="audio/*,video/*,.mka,.mkv"
          className="btn btn-sm"
          onFiles={([file]) => take(file)}
        >
          Go on
        </FileButton>
      )}
      <button type="button" className="btn btn-sm" onClick={() => settle(api.discardUpload(id))}>
        Discard
      </button>
    </li>
  );
}

const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;
