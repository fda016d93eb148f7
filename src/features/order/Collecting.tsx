import { X } from 'lucide-react';
import { momentLabel } from '@/core/sources/recording.ts';
import { formatLength } from '@/core/time/clock.ts';
import { totalLength } from '@/core/time/range.ts';
import { Choice } from '@/ui/Choice.tsx';
import { useEpisode, useModel } from '../episode/session/useEpisode.ts';
import { CommandButton } from '../episode/workbench/CommandButton.tsx';
import { firstWords, switchCollecting } from './arranging.ts';

const MOST_SHOWN = 200;

/** The other way round, for long interviews: what is wanted is marked, and only that makes the programme. */
export function Collecting() {
  const model = useModel();
  const collected = useEpisode((s) => s.decisions.collected);
  const collecting = useEpisode((s) => s.decisions.collecting);
  const recordings = useEpisode((s) => s.recordings);
  const words = useEpisode((s) => s.words);
  return (
    <>
      <Choice
        label="The programme is"
        help={
          collecting === undefined
            ? 'What is wanted can be marked meanwhile; it changes nothing until it is asked for here.'
            : 'All else is out without being cut. What was taken out inside it stays out.'
        }
        options={[
          ['left', 'all left'],
          ['marking', 'as marked'],
          ['recording', 'in order'],
        ]}
        value={collecting ?? 'left'}
        onChoose={(value) => (value === 'left' ? switchCollecting(model) : switchCollecting(model, value))}
      />
      <div className="flex flex-wrap gap-1">
        <CommandButton id="collect">Wanted</CommandButton>
        <CommandButton id="collecting" pressed={collecting !== undefined}>
          Only what is wanted
        </CommandButton>
      </div>
      <p className="mt-1 text-sm" data-figure="wanted">
        {collected.length === 0
          ? 'Nothing is marked as wanted.'
          : `${collected.length === 1 ? 'One passage is' : `${collected.length} passages are`} wanted, ${formatLength(totalLength(collected))}.`}
      </p>
      <ol className="max-h-56 overflow-y-auto">
        {collected.slice(0, MOST_SHOWN).map((range) => {
          const text = firstWords(words, range);
          const name = text || momentLabel(recordings, range.start);
          return (
            <li key={range.start} className="flex items-center gap-2 py-0.5 text-sm">
              <button
                type="button"
                className="min-w-0 grow cursor-pointer truncate text-left hover:underline"
                onClick={() => model.reveal(range.start, range)}
              >
                <span className="tabular text-xs quiet">{momentLabel(recordings, range.start)}</span>{' '}
                <span className="font-serif">{text || formatLength(range.end - range.start)}</span>
              </button>
              <button
                type="button"
                className="btn btn-ghost btn-xs btn-square"
                aria-label={`No longer wanted: ${name}`}
                onClick={() => model.decide({ type: 'collect', about: range, wanted: false })}
              >
                <X size={13} aria-hidden />
              </button>
            </li>
          );
        })}
      </ol>
      {collected.length > MOST_SHOWN && <p className="text-xs">and {collected.length - MOST_SHOWN} more</p>}
    </>
  );
}
