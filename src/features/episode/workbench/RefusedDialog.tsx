import { Dialog } from '@/ui/Dialog.tsx';
import { entryName } from '../../entryNames.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';

/** Decisions that the server refused for good: each with the reason, to be copied or dropped. All others are saved. */
export function RefusedDialog({ onClose }: { onClose: () => void }) {
  const model = useModel();
  const refused = useEpisode((s) => s.refused);
  return (
    <Dialog title="Refused by the server" onClose={onClose}>
      <p className="mb-3 text-sm">
        {refused.length === 0
          ? 'Nothing is left here. Everything that was decided is saved.'
          : 'These decisions are not part of the episode. All others are saved, those that came later among them.'}
      </p>
      <ul className="grid max-h-80 gap-3 overflow-y-auto" aria-label="Refused decisions">
        {refused.map(({ id, at, why, entry }) => (
          <li key={id} className="rounded border border-base-300 p-3 text-sm">
            <p className="font-semibold">
              {entryName((entry as { type?: string } | null)?.type)}
              <span className="ml-2 font-normal quiet">{new Date(at).toLocaleTimeString()}</span>
            </p>
            <p className="my-1 break-words">{why}</p>
            <div className="flex gap-2">
              <button
                type="button"
                className="btn btn-xs"
                onClick={() => void navigator.clipboard?.writeText(JSON.stringify(entry, null, 2))}
              >
                Copy
              </button>
              <button type="button" className="btn btn-xs" onClick={() => model.queue.discard(id)}>
                Drop
              </button>
            </div>
          </li>
        ))}
      </ul>
    </Dialog>
  );
}
