import { FileText } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { seamCount } from '@/core/assemble/programme.ts';
import { DEFAULT_SETTINGS, SETTINGS, type SettingSpec } from '@/core/detect/settings.ts';
import { formatLength } from '@/core/time/clock.ts';
import { NumberSlider } from '@/ui/NumberSlider.tsx';
import { api } from '../api.ts';
import { useEpisode, useModel } from '../episode/store.ts';
import { PauseCard } from './PauseCard.tsx';
import { PauseList } from './PauseList.tsx';

type NumberSetting = 'minPause' | 'airBefore' | 'airAfter' | 'speck';
const SLIDERS: readonly NumberSetting[] = ['minPause', 'airBefore', 'airAfter', 'speck'];
const specOf = (name: string) =>
  SETTINGS.find((spec) => spec.name === name) as SettingSpec & { min: number; max: number; step: number };
/** The log takes any length; a slider is for the lengths people use. */
const SLIDER_MAX: Readonly<Record<string, number>> = { minPause: 3, airBefore: 0.8, airAfter: 0.8 };

/** How tight? */
export function PausesTray() {
  const measured = useEpisode((s) => s.cut !== undefined);
  if (!measured) return <p className="p-4 text-sm">Pauses appear here once the recording is measured.</p>;
  return (
    <div className="px-3 pb-4">
      <Figures />
      <Threshold />
      {SLIDERS.map((name) => (
        <SettingSlider key={name} name={name} />
      ))}
      <PauseCard />
      <PauseList />
      <BringWords />
    </div>
  );
}

/** What the present settings come to, and what the moving slider changed. */
function Figures() {
  const cut = useEpisode((s) => s.cut);
  const settled = useEpisode((s) => s.settled);
  const moving = useEpisode((s) => Object.keys(s.draft).length > 0);
  const duration = useEpisode((s) => s.detail?.duration ?? 0);
  if (!cut) return null;
  const removed = duration - cut.programme.length;
  const change = settled && moving ? settled.programme.length - cut.programme.length : 0;
  const seams = settled && moving ? seamCount(cut.programme) - seamCount(settled.programme) : 0;
  return (
    <dl className="tabular grid grid-cols-2 gap-x-4 border-base-300 border-b py-2 text-sm">
      <div className="flex justify-between">
        <dt>taken out</dt>
        <dd data-figure="removed">{formatLength(removed)}</dd>
      </div>
      <div className="flex justify-between">
        <dt>found</dt>
        <dd data-figure="found">{cut.count}</dd>
      </div>
      <div className="col-span-2 h-4 text-xs opacity-80">
        {moving && `${signed(change, (n) => formatLength(n))} taken out, ${signed(seams, String)} seams`}
      </div>
    </dl>
  );
}

const signed = (value: number, format: (size: number) => string) => `${value < 0 ? '−' : '+'}${format(Math.abs(value))}`;

function Threshold() {
  const model = useModel();
  const value = useEpisode((s) => s.draft.threshold ?? s.decisions.settings.threshold);
  const range = useEpisode((s) => s.autoThreshold);
  const spec = specOf('threshold');
  const auto = value === 'auto';
  const middle = range ? Math.round((range[0] + range[1]) / 2) : -45;
  return (
    <div>
      <NumberSlider
        label={spec.label}
        help={auto && range ? `Auto: follows room and voice, ${spanOf(range)} here.` : spec.help}
        unit={spec.unit}
        value={auto ? middle : value}
        min={spec.min}
        max={spec.max}
        step={spec.step}
        changed={!auto}
        onMove={(threshold) => model.moveSetting({ threshold })}
        onSettle={(threshold) => model.settleSetting('threshold', threshold)}
        onReset={() => model.settleSetting('threshold', 'auto')}
      />
      <label className="flex w-fit cursor-pointer items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={auto}
          onChange={(event) => model.settleSetting('threshold', event.target.checked ? 'auto' : middle)}
        />
        auto
      </label>
    </div>
  );
}

const spanOf = ([low, high]: readonly [number, number]) =>
  high - low < 1 ? `${Math.round(low)} dBFS` : `${Math.round(low)} to ${Math.round(high)} dBFS`;

function SettingSlider({ name }: { name: NumberSetting }) {
  const model = useModel();
  const value = useEpisode((s) => s.draft[name] ?? s.decisions.settings[name]);
  const { label, help, unit, min, max, step } = specOf(name);
  return (
    <NumberSlider
      {...{ label, help, unit, value, min, step }}
      max={Math.max(value, SLIDER_MAX[name] ?? max)}
      changed={value !== DEFAULT_SETTINGS[name]}
      onMove={(moved) => model.moveSetting({ [name]: moved })}
      onSettle={(settled) => model.settleSetting(name, settled)}
      onReset={() => model.settleSetting(name, DEFAULT_SETTINGS[name])}
    />
  );
}

/** Brings a transcript of our own JSON. */
function BringWords() {
  const model = useModel();
  const has = useEpisode((s) => s.words.length);
  const [said, setSaid] = useState<{ text: string; bad: boolean }>();
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => setSaid(undefined), [has]);
  const bring = async (file: File) => {
    try {
      const { words } = await api.importWords(model.id, await file.text());
      setSaid({ text: `${words} words brought in.`, bad: false });
      await model.refresh();
    } catch (error) {
      setSaid({ text: `${(error as Error).message} Nothing was changed.`, bad: true });
    }
  };
  return (
    <section className="mt-3 border-base-300 border-t pt-3 text-sm" aria-label="Words">
      <p className="mb-2">
        {has > 0
          ? `${has} words guard the pauses.`
          : 'With a transcript, no pause can enter a word, and the words are printed on the score.'}
      </p>
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        className="sr-only"
        tabIndex={-1}
        aria-label="Transcript file"
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) void bring(file);
        }}
      />
      <button type="button" className="btn btn-sm" onClick={() => input.current?.click()}>
        <FileText size={15} aria-hidden /> {has > 0 ? 'Bring other words' : 'Bring words'}
      </button>
      {said && (
        <p role={said.bad ? 'alert' : 'status'} className={`mt-2 ${said.bad ? 'text-error' : ''}`}>
          {said.text}
        </p>
      )}
    </section>
  );
}
