import { momentLabel } from '@/core/sources/recording.ts';
import { formatLength } from '@/core/time/clock.ts';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { firstWords } from './arranging.ts';

/** Passages that stand elsewhere than they were said, each with the way back. */
export function MovedList() {
  const model = useModel();
  const moves = useEpisode((s) => s.decisions.moves);
  const recordings = useEpisode((s) => s.recordings);
  const words = useEpisode((s) => s.words);
  const lifted = useEpisode((s) => s.lifted);
  return (
    <section className="mt-2 border-base-300 border-t pt-2" aria-label="Moved passages">
      <h2 className="mb-1 font-semibold text-sm">Moved</h2>
      {moves.length === 0 && (
        <p className="text-xs leading-snug quiet">
          Select words or sound, cut them and paste them at the playhead; or drag the selection in As programme or Words alone.
        </p>
      )}
      <ul>
        {moves.map(({ id, about, to }) => {
          const text = firstWords(words, about);
          return (
            <li key={id} className="flex items-center gap-2 py-0.5 text-sm">
              <button
                type="button"
                className="min-w-0 grow cursor-pointer text-left hover:underline"
                onClick={() => model.reveal(about.start, about)}
              >
                <span className="block truncate font-serif">{text || formatLength(about.end - about.start)}</span>
                <span className="tabular block text-xs quiet">
                  {momentLabel(recordings, about.start)} to {momentLabel(recordings, to)}, {formatLength(about.end - about.start)}
                </span>
              </button>
              <button
                type="button"
                className="btn btn-xs"
                aria-label={`Send back: ${text || momentLabel(recordings, about.start)}`}
                onClick={() => model.decide({ type: 'sendBack', move: id })}
              >
                Send back
              </button>
            </li>
          );
        })}
      </ul>
      <div className="mt-1 flex flex-wrap gap-1">
        <CommandButton id="lift">Cut</CommandButton>
        <CommandButton id="set-down">Paste here</CommandButton>
        <CommandButton id="send-back">Send back</CommandButton>
      </div>
      {lifted && (
        <output className="mt-1 block text-xs">
          {formatLength(lifted.end - lifted.start)} cut from {momentLabel(recordings, lifted.start)}: go where it belongs, and
          paste.
        </output>
      )}
    </section>
  );
}
