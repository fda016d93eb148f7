import type { ReactNode } from 'react';

interface Props {
  readonly checked: boolean;
  readonly onChange: (checked: boolean) => void;
  readonly children: ReactNode;
}

/** Something that is so or not. */
export function Check({ checked, onChange, children }: Props) {
  return (
    <label className="flex w-fit cursor-pointer items-center gap-2 py-0.5">
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={checked}
        onChange={({ target }) => onChange(target.checked)}
      />
      {children}
    </label>
  );
}
