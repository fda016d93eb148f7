import { useState } from 'react';
import type { RemovedEpisode } from '@/core/contract/messages.ts';
import { api } from '../api.ts';

interface Props {
  readonly removed: readonly RemovedEpisode[];
  readonly onChange: () => void;
}

/** Episodes that were removed, for as long as they can be brought back. */
export function RemovedList({ removed, onChange }: Props) {
  const [sure, setSure] = useState<string>();
  if (removed.length === 0) return null;
  return (
    <details className="mt-6 rounded border border-base-300 p-3 text-sm">
      <summary className="cursor-pointer">
        {removed.length === 1 ? 'One removed episode' : `${removed.length} removed episodes`}, which can still be brought back
      </summary>
      <ul className="mt-3 grid gap-2" aria-label="Removed episodes">
        {removed.map(({ id, title, daysLeft }) => (
          <li key={id} className="flex flex-wrap items-center gap-3">
            <span className="min-w-0 grow truncate">
              {title}
              <span className="ml-2 quiet">{daysLeft === 1 ? 'one day left' : `${daysLeft} days left`}</span>
            </span>
            <button type="button" className="btn btn-sm" onClick={() => void api.bringBack(id).finally(onChange)}>
              Bring back
            </button>
            <button
              type="button"
              className={`btn btn-sm ${sure === id ? 'btn-error' : 'btn-ghost'}`}
              onClick={() => (sure === id ? void api.forget(id).finally(onChange) : setSure(id))}
              onBlur={() => setSure(undefined)}
            >
              {sure === id ? 'Yes, for good' : 'Remove for good'}
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}
