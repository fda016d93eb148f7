import type { DecisionEvent } from '@/core/decisions/event.ts';
import { Dialog } from '@/ui/Dialog.tsx';
import { useEpisode, useModel } from '../session/useEpisode.ts';

/** What an entry of the log is called. */
const NAMES: Readonly<Record<DecisionEvent['type'], string>> = {
  verdict: 'A verdict',
  verdicts: 'Verdicts on several places',
  treat: 'A treatment',
  edge: 'An edge that was moved',
  cut: 'A cut by hand',
  cuts: 'Cuts by hand at several places',
  split: 'A split',
  correct: 'A correction of words',
  speaker: 'A speaker’s name',
  takes: 'A choice of takes',
  setting: 'A setting',
  settings: 'A set of settings',
  section: 'A marked range',
  unmark: 'A marked range that was let go',
  recording: 'A recording removed or put back',
  move: 'A passage that was moved',
  sendBack: 'A passage that was sent back',
  collect: 'A passage that is wanted',
  collecting: 'Collecting',
  break: 'A part',
  unbreak: 'A part that was joined',
  undo: 'A step that was taken back',
  redo: 'A step that was brought back',
};

const nameOf = (entry: unknown): string => NAMES[(entry as DecisionEvent | null)?.type ?? 'cut'] ?? 'An entry';

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
              {nameOf(entry)}
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
