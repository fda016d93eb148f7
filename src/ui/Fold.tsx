import { type ReactNode, useState } from 'react';

/** A part of a tray that opens on demand, so that it is no wall of settings. */
export function Fold({ title, children, opened = false }: { title: string; children: ReactNode; opened?: boolean }) {
  const [open, setOpen] = useState(opened);
  return (
    <details className="mt-2 border-base-300 border-t pt-2" open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold text-sm">{title}</summary>
      {open && <div className="pt-1">{children}</div>}
    </details>
  );
}
