import { DEFAULT_SETTINGS, type Settings, specOf } from '@/core/detect/settings.ts';
import { Choice } from '@/ui/Choice.tsx';
import { NumberSlider } from '@/ui/NumberSlider.tsx';
import { useEpisode, useModel } from '../session/useEpisode.ts';
import { settingsShown } from './tuning.ts';

export type NumberSetting = { [N in keyof Settings]: number extends Settings[N] ? N : never }[keyof Settings];
export type ChoiceSetting = {
  [N in keyof Settings]: Settings[N] extends string ? (string extends Settings[N] ? never : N) : never;
}[keyof Settings];

/** The log takes any length; a slider is for the lengths people use. */
const SLIDER_MAX: Partial<Record<NumberSetting, number>> = {
  minPause: 3,
  airBefore: 0.8,
  airAfter: 0.8,
  airSentence: 1.5,
  airTurn: 3,
  shortenTo: 3,
  hurryRate: 8,
  hurryFrom: 20,
};
const WORDS: Partial<Record<NumberSetting, string>> = {
  threshold: 'auto',
  airSentence: 'same as inside one',
  airTurn: 'same as within a turn',
};

/** A setting in numbers; those that can also go by themselves have a box for that. */
export function SettingNumber({ name }: { name: NumberSetting }) {
  const model = useModel();
  const value = useEpisode((s) => settingsShown(s)[name]);
  const airAfter = useEpisode((s) => settingsShown(s).airAfter);
  const auto = useEpisode((s) => s.autoThreshold);
  const levels = useEpisode((s) => s.histogram);
  const { label, help, unit, min = 0, max = 1, step = 0.01, choices } = specOf(name);
  const byItself = choices?.[0] as Settings[NumberSetting] | undefined;
  const itself = typeof value !== 'number';
  const middle = name === 'threshold' ? (levels?.threshold ?? -45) : airAfter;
  const settle = (settled: Settings[NumberSetting]) => model.tuning.settleSetting(name, settled as never);
  return (
    <div>
      <NumberSlider
        {...{ label, unit, min, step }}
        help={itself && name === 'threshold' && auto ? `Auto: follows room and voice, ${spanOf(auto)} here.` : help}
        value={itself ? middle : value}
        max={Math.max(itself ? min : value, SLIDER_MAX[name] ?? max)}
        changed={value !== DEFAULT_SETTINGS[name]}
        onMove={(moved) => model.tuning.moveSetting({ [name]: moved })}
        onSettle={settle}
        onReset={() => settle(DEFAULT_SETTINGS[name])}
      />
      {byItself !== undefined && (
        <label className="flex w-fit cursor-pointer items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={itself}
            onChange={(event) => settle(event.target.checked ? byItself : middle)}
          />
          {WORDS[name]}
        </label>
      )}
    </div>
  );
}

const spanOf = ([low, high]: readonly [number, number]) =>
  high - low < 1 ? `${Math.round(low)} dBFS` : `${Math.round(low)} to ${Math.round(high)} dBFS`;

/** A setting of a few values, worded. */
export function SettingChoice<N extends ChoiceSetting>({
  name,
  labels,
}: {
  name: N;
  labels: Readonly<Record<Settings[N], string>>;
}) {
  const model = useModel();
  const value = useEpisode((s) => settingsShown(s)[name]);
  const { label, help } = specOf(name);
  return (
    <Choice
      {...{ label, help, value }}
      options={Object.entries(labels) as [Settings[N], string][]}
      onReset={value === DEFAULT_SETTINGS[name] ? undefined : () => model.tuning.settleSetting(name, DEFAULT_SETTINGS[name])}
      onChoose={(chosen) => model.tuning.settleSetting(name, chosen)}
    />
  );
}
