import { RotateCcw } from 'lucide-react';
import { useId, useState } from 'react';

interface Props {
  readonly label: string;
  readonly help: string;
  readonly unit: string;
  readonly value: number;
  readonly min: number;
  readonly max: number;
  readonly step: number;
  readonly disabled?: boolean;
  /** whether the value is another than the one it resets to */
  readonly changed: boolean;
  /** while it moves */
  readonly onMove: (value: number) => void;
  /** when it has come to rest */
  readonly onSettle: (value: number) => void;
  readonly onReset: () => void;
}

/** A slider with its value beside it, to be dragged, stepped by keys, or typed. */
export function NumberSlider({ label, help, unit, value, min, max, step, disabled, changed, onMove, onSettle, onReset }: Props) {
  const id = useId();
  const [typed, setTyped] = useState<string>();
  const digits = Math.max(0, Math.ceil(-Math.log10(step)));
  const settleTyped = () => {
    const number = Number(typed?.replace(',', '.'));
    if (typed?.trim() && Number.isFinite(number)) onSettle(Math.min(max, Math.max(min, number)));
    setTyped(undefined);
  };
  return (
    <div className="py-1.5">
      <div className="flex items-baseline gap-2">
        <label htmlFor={id} className="grow text-sm font-semibold">
          {label}
        </label>
        {changed && (
          <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Reset ${label}`} title="Back to the default" onClick={onReset}>
            <RotateCcw size={13} aria-hidden />
          </button>
        )}
        <input
          className="tabular input input-xs w-16 text-right"
          aria-label={`${label}, in ${unit}`}
          inputMode="decimal"
          disabled={disabled}
          value={typed ?? value.toFixed(digits)}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={settleTyped}
          onKeyDown={(event) => event.key === 'Enter' && settleTyped()}
        />
        <span className="tabular w-9 text-xs opacity-80">{unit}</span>
      </div>
      <input
        id={id}
        type="range"
        className="range range-xs range-primary w-full"
        aria-describedby={`${id}-help`}
        {...{ min, max, step, value, disabled }}
        onChange={(event) => onMove(Number(event.target.value))}
        onPointerUp={(event) => onSettle(Number(event.currentTarget.value))}
        onKeyUp={(event) => onSettle(Number(event.currentTarget.value))}
      />
      <p id={`${id}-help`} className="text-xs leading-tight opacity-80">
        {help}
      </p>
    </div>
  );
}
