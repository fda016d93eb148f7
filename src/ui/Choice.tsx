import { useId } from 'react';
import { ResetButton } from './ResetButton.tsx';

interface Props<T extends string> {
  readonly label: string;
  readonly help?: string | undefined;
  readonly options: readonly (readonly [value: T, label: string])[];
  /** none is chosen when undefined */
  readonly value: T | undefined;
  readonly disabled?: boolean;
  /** given where there is a value to go back to, and another one holds */
  readonly onReset?: (() => void) | undefined;
  readonly onChoose: (value: T) => void;
}

/** A few values of which one holds, side by side; arrow keys go through them. */
export function Choice<T extends string>({ label, help, options, value, disabled, onReset, onChoose }: Props<T>) {
  const id = useId();
  return (
    <fieldset className="py-1" disabled={disabled} aria-describedby={help ? `${id}-help` : undefined}>
      <legend className="text-sm font-semibold leading-tight">{label}</legend>
      <div className="mt-1 flex overflow-hidden rounded border border-base-300">
        {options.map(([one, text]) => (
          <label
            key={one}
            className={`relative grow cursor-pointer border-base-300 border-r px-1 py-0.5 text-center text-sm last:border-r-0 has-focus-visible:outline-2 has-focus-visible:-outline-offset-2 ${
              one === value ? 'bg-primary text-primary-content' : 'bg-base-100 hover:bg-base-300'
            }`}
          >
            <input
              type="radio"
              name={id}
              className="absolute inset-0 cursor-pointer appearance-none opacity-0"
              checked={one === value}
              onChange={() => onChoose(one)}
            />
            {text}
          </label>
        ))}
      </div>
      <div className="mt-0.5 flex justify-between gap-2">
        <p id={`${id}-help`} className="text-xs leading-tight quiet">
          {help}
        </p>
        {onReset && <ResetButton label={label} onReset={onReset} />}
      </div>
    </fieldset>
  );
}
