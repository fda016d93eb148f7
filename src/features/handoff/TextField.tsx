import { useEffect, useState } from 'react';

interface Props {
  readonly label: string;
  readonly help: string;
  readonly value: string;
  readonly placeholder?: string;
  readonly onSettle: (value: string) => void;
}

/** A line of text that counts when the field is left, or with Enter. */
export function TextField({ label, help, value, placeholder, onSettle }: Props) {
  const [typed, setTyped] = useState(value);
  useEffect(() => setTyped(value), [value]);
  const settle = () => {
    if (typed.trim() !== value) onSettle(typed.trim());
  };
  return (
    <label className="block py-1">
      <span className="font-semibold">{label}</span>
      <input
        className="input input-xs mt-0.5 w-full"
        value={typed}
        placeholder={placeholder}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={settle}
        onKeyDown={(event) => event.key === 'Enter' && settle()}
      />
      <span className="text-xs leading-tight quiet">{help}</span>
    </label>
  );
}
