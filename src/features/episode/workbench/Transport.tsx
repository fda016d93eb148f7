import { HelpCircle, Pause, Play, ZoomIn, ZoomOut } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { momentLabel } from '@/core/sources/recording.ts';
import type { Reading } from '../session/state.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { CommandButton } from './CommandButton.tsx';
import { SpeedSelect } from './SpeedSelect.tsx';

const READINGS: readonly (readonly [Reading, string])[] = [
  ['recorded', 'As recorded'],
  ['programme', 'As programme'],
  ['words', 'Words alone'],
];

/** Playing and looking: what is heard, how fast, how long the rows are. */
export function Transport() {
  const model = useModel();
  const playing = useEpisode((s) => s.playing);
  const reading = useEpisode((s) => s.reading);
  const rowSeconds = useEpisode((s) => s.rowSeconds);
  const measured = useEpisode((s) => s.cut !== undefined);
  return (
    <footer className="flex min-h-13 shrink-0 flex-wrap items-center gap-x-4 gap-y-1 border-base-300 border-t px-3 py-1">
      <CommandButton id="play" className="btn btn-primary btn-sm w-28 pointer-coarse:min-h-11" pressed={playing}>
        {playing ? <Pause size={16} aria-hidden /> : <Play size={16} aria-hidden />}
        {playing ? 'Stop' : 'Play'}
      </CommandButton>
      <Clock />
      <SpeedSelect label="Speed" className="gap-2 text-sm max-sm:hidden" fieldClass="select-sm w-24" />
      <fieldset className="join shrink-0" aria-label="Reading">
        {READINGS.map(([value, label]) => (
          <button
            key={value}
            type="button"
            className={`btn btn-sm join-item ${reading === value ? 'btn-neutral' : ''}`}
            aria-pressed={reading === value}
            disabled={!measured}
            title={`${label} (G)`}
            onClick={() => model.read(value)}
          >
            {label}
          </button>
        ))}
      </fieldset>
      <div className="ml-auto flex items-center gap-1 text-sm max-sm:hidden">
        <CommandButton id="longer-rows" iconOnly className="btn btn-ghost btn-sm btn-square">
          <ZoomOut size={17} aria-hidden />
        </CommandButton>
        <span className="tabular w-28 whitespace-nowrap text-center">{rowSeconds} s a row</span>
        <CommandButton id="shorter-rows" iconOnly className="btn btn-ghost btn-sm btn-square">
          <ZoomIn size={17} aria-hidden />
        </CommandButton>
        <CommandButton id="keys" iconOnly className="btn btn-ghost btn-sm btn-square">
          <HelpCircle size={17} aria-hidden />
        </CommandButton>
      </div>
    </footer>
  );
}

function Clock() {
  const model = useModel();
  const text = useRef<HTMLSpanElement>(null);
  useEffect(
    () =>
      model.player.onTime((source) => {
        const at = momentLabel(model.state.recordings, source, true);
        if (text.current && text.current.textContent !== at) text.current.textContent = at;
      }),
    [model],
  );
  return (
    <span
      ref={text}
      className="tabular min-w-20 whitespace-nowrap text-lg"
      title="Where the playhead stands in the recording"
      data-clock
    />
  );
}
