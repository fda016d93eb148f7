import { RATES } from '../session/model.ts';
import { useEpisode, useModel } from '../session/useEpisode.ts';

interface Props {
  readonly label: string;
  /** of the whole, and of the field in it */
  readonly className: string;
  readonly fieldClass: string;
}

/** How fast everything is played. */
export function SpeedSelect({ label, className, fieldClass }: Props) {
  const model = useModel();
  const rate = useEpisode((s) => s.rate);
  return (
    <label className={`flex items-center ${className}`}>
      {label}
      <select
        className={`tabular select ${fieldClass}`}
        value={rate}
        onChange={(event) => model.setRate(Number(event.target.value))}
      >
        {RATES.map((value) => (
          <option key={value} value={value}>
            {value} ×
          </option>
        ))}
      </select>
    </label>
  );
}
