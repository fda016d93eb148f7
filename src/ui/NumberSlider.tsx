import { useId, useState } from 'react';
import { ResetButton } from './ResetButton.tsx';

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

const DIRECTIONS: Readonly<Record<string, 1 | -1>> = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 };
/** Steps that an arrow goes with Shift held. */
const COARSE = 10;

/** A slider with its value beside it, to be dragged, stepped by keys, or typed. */
export function NumberSlider({ label, help, unit, value, min, max, step, disabled, changed, onMove, onSettle, onReset }: Props) {
  const id = useId();
  const [typed, setTyped] = useState<string>();
  const digits = Math.max(0, Math.ceil(-Math.log10(step)));
  const within = (wanted: number) => Number(Math.min(max, Math.max(min, wanted)).toFixed(digits));
  const settleTyped = () => {
    const number = Number(typed?.replace(',', '.'));
    if (typed?.trim() && Number.isFinite(number)) onSettle(Math.min(max, Math.max(min, number)));
    setTyped(undefined);
  };
  return (
    <div className="grid grid-cols-[6.6rem_1fr_6.2rem] items-center gap-x-2 py-1">
      <label htmlFor={id} className="text-sm font-semibold leading-tight">
        {label}
      </label>
      <input
        id={id}
        type="range"
        className="range range-xs range-primary w-full"
        aria-describedby={`${id}-help`}
        {...{ min, max, step, value, disabled }}
        onChange={(event) => onMove(Number(event.target.value))}
        onKeyDown={(event) => {
          const direction = DIRECTIONS[event.key];
          if (!direction || !event.shiftKey) return;
          event.preventDefault();
          onMove(within(value + direction * COARSE * step));
        }}
        onPointerUp={(event) => onSettle(Number(event.currentTarget.value))}
        onKeyUp={(event) => event.key !== 'Shift' && event.key !== 'Tab' && onSettle(Number(event.currentTarget.value))}
      />
      <div className="flex items-center gap-1">
        <input
          className="tabular input input-xs w-14 px-1 text-right"
          aria-label={`${label}, in ${unit}`}
          inputMode="decimal"
          disabled={disabled}
          value={typed ?? value.toFixed(digits)}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={settleTyped}
          onKeyDown={(event) => event.key === 'Enter' && settleTyped()}
        />
        <span className="tabular text-xs opacity-80">{unit}</span>
      </div>
      <p id={`${id}-help`} className="col-span-2 text-xs leading-tight opacity-80">
        {help}
      </p>
      <div className="h-4 text-right">{changed && <ResetButton {...{ label, onReset }} />}</div>
    </div>
  );
}
