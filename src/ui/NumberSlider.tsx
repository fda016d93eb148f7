import { useId, useLayoutEffect, useRef, useState } from 'react';
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
  const slider = useRef<HTMLInputElement>(null);
  /** where the hand has moved it to, until that comes back: what comes before is a step behind */
  const hand = useRef<number>(undefined);
  useLayoutEffect(() => {
    if (hand.current !== undefined && hand.current !== value) return;
    hand.current = undefined;
    if (slider.current) slider.current.value = String(value);
  }, [value, min, max, step]);
  const move = (moved: number) => {
    hand.current = moved;
    onMove(moved);
  };
  const rest = ({ currentTarget }: { readonly currentTarget: HTMLInputElement }) => {
    hand.current = undefined;
    onSettle(Number(currentTarget.value));
  };
  const digits = Math.max(0, Math.ceil(-Math.log10(step)));
  const within = (wanted: number) => Number(Math.min(max, Math.max(min, wanted)).toFixed(digits));
  const settleTyped = () => {
    const number = Number(typed?.replace(',', '.'));
    if (typed?.trim() && Number.isFinite(number)) onSettle(Math.min(max, Math.max(min, number)));
    setTyped(undefined);
  };
  return (
    <div className="isolate grid grid-cols-[6.6rem_1fr_6.2rem] items-center gap-x-2 py-1">
      <label htmlFor={id} className="text-sm font-semibold leading-tight">
        {label}
      </label>
      <input
        id={id}
        ref={slider}
        type="range"
        className="range range-xs range-primary w-full"
        aria-describedby={`${id}-help`}
        {...{ min, max, step, disabled }}
        defaultValue={value}
        onChange={(event) => move(Number(event.target.value))}
        onKeyDown={(event) => {
          const direction = DIRECTIONS[event.key];
          if (!direction || !event.shiftKey) return;
          event.preventDefault();
          const moved = within(Number(event.currentTarget.value) + direction * COARSE * step);
          event.currentTarget.value = String(moved);
          move(moved);
        }}
        onPointerUp={rest}
        onKeyUp={(event) => event.key !== 'Shift' && event.key !== 'Tab' && rest(event)}
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
        <span className="tabular text-xs quiet">{unit}</span>
      </div>
      <p id={`${id}-help`} className="col-span-2 text-xs leading-tight quiet">
        {help}
      </p>
      <div className="h-4 text-right">{changed && <ResetButton {...{ label, onReset }} />}</div>
    </div>
  );
}
