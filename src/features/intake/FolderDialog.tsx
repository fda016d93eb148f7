import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Dialog } from '@/ui/Dialog.tsx';
import { api } from '../api.ts';

interface Props {
  /** makes of an entry what is wanted */
  readonly onUse: (entry: string) => Promise<unknown>;
  readonly onClose: () => void;
}

/** Files of the server's media folder, used where they lie. */
export function FolderDialog({ onUse, onClose }: Props) {
  const { data, error } = useQuery({ queryKey: ['folder'], queryFn: api.folder });
  const [filter, setFilter] = useState('');
  const [busy, setBusy] = useState<string>();
  const [problem, setProblem] = useState<string>();
  const shown = data?.entries.filter((entry) => entry.path.toLowerCase().includes(filter.toLowerCase())) ?? [];

  const use = async (entry: string) => {
    setBusy(entry);
    setProblem(undefined);
    try {
      await onUse(entry);
      onClose();
    } catch (refusal) {
      setProblem((refusal as Error).message);
      setBusy(undefined);
    }
  };

  return (
    <Dialog title="Media folder" onClose={onClose}>
      <p className="mb-2 text-sm">Files stay where they are; nothing is copied.</p>
      <input
        className="input input-sm mb-2 w-full"
        placeholder="Part of a name"
        aria-label="Filter"
        value={filter}
        onChange={(e) => setFilter(e.target.value)}
      />
      {(error || problem) && (
        <p role="alert" className="mb-2 text-error">
          {problem ?? error?.message}
        </p>
      )}
      <ul className="max-h-80 overflow-y-auto">
        {shown.map(({ entry, path, bytes }) => (
          <li key={entry}>
            <button
              type="button"
              className="btn btn-ghost btn-sm h-auto w-full justify-between py-1 font-normal"
              disabled={busy !== undefined}
              onClick={() => void use(entry)}
            >
              <bdi className="break-all text-left">{path}</bdi>
              <span className="tabular shrink-0 text-xs">{busy === entry ? 'checking …' : `${(bytes / 1e6).toFixed(1)} MB`}</span>
            </button>
          </li>
        ))}
      </ul>
      {data && shown.length === 0 && <p className="text-sm">No recording of that name here.</p>}
      {data?.truncated && (
        <p className="text-sm quiet">There are more files than are listed; give part of the name of the folder.</p>
      )}
    </Dialog>
  );
}
