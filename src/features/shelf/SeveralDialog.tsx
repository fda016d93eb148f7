import { useState } from 'react';
import { Dialog } from '@/ui/Dialog.tsx';

interface Props {
  readonly files: readonly File[];
  readonly onOne: () => void;
  readonly onInSync: () => void;
  readonly onEach: () => void;
  readonly onClose: () => void;
}

/** Asks what several recordings that came at once are: one episode, one after the other or in sync, or one each. */
export function SeveralDialog({ files, onOne, onInSync, onEach, onClose }: Props) {
  const [busy, setBusy] = useState(false);
  const choose = (work: () => void) => () => {
    setBusy(true);
    work();
    onClose();
  };
  return (
    <Dialog title={`${files.length} recordings at once`} onClose={onClose}>
      <ol className="mb-3 max-h-48 list-inside list-decimal overflow-y-auto text-sm">
        {files.map((file) => (
          <li key={`${file.name} ${file.size} ${file.lastModified}`} className="truncate">
            <bdi>{file.name}</bdi>
          </li>
        ))}
      </ol>
      <p className="mb-3 text-sm">
        In one episode they follow each other in this order, which can be changed later. The first decides the frame rate of the
        timeline. Files that ran together, such as a voice each or a camera and a recorder, are laid on one another by their
        sound.
      </p>
      <div className="flex flex-wrap gap-2">
        <button type="button" className="btn btn-primary" disabled={busy} onClick={choose(onOne)}>
          One episode
        </button>
        <button type="button" className="btn" disabled={busy} onClick={choose(onInSync)}>
          One recording: they ran together
        </button>
        <button type="button" className="btn" disabled={busy} onClick={choose(onEach)}>
          One episode each
        </button>
        <button type="button" className="btn btn-ghost" onClick={onClose}>
          Bring none
        </button>
      </div>
    </Dialog>
  );
}
