interface Props<T extends string> {
  readonly label: string;
  readonly options: readonly { readonly value: T; readonly label: string; readonly disabled?: boolean }[];
  readonly value: T;
  readonly onChoose: (value: T) => void;
}

/** Values of which one holds, more than fit side by side, behind their name. */
export function SelectLine<T extends string>({ label, options, value, onChoose }: Props<T>) {
  return (
    <label className="flex items-center gap-2 py-1">
      <span className="w-20 shrink-0 font-semibold">{label}</span>
      <select className="select select-xs min-w-0 grow" value={value} onChange={({ target }) => onChoose(target.value as T)}>
        {options.map((one) => (
          <option key={one.value} value={one.value} disabled={one.disabled}>
            {one.label}
          </option>
        ))}
      </select>
    </label>
  );
}
