import { X } from 'lucide-react';
import { type ReactNode, useEffect, useRef } from 'react';

/** A modal dialog on the platform's own element: it traps focus, closes on Escape and gives focus back. */
export function Dialog({ title, onClose, children }: { title: string; onClose: () => void; children: ReactNode }) {
  const ref = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    const dialog = ref.current;
    if (dialog && !dialog.open) dialog.showModal();
  }, []);
  return (
    <dialog ref={ref} className="modal" aria-label={title} onClose={onClose}>
      <div className="modal-box max-h-[88vh] max-w-2xl border border-base-300">
        <header className="mb-3 flex items-center justify-between">
          <h2 className="font-serif text-xl">{title}</h2>
          <button type="button" className="btn btn-ghost btn-sm btn-square" aria-label="Close" onClick={onClose}>
            <X size={17} aria-hidden />
          </button>
        </header>
        {children}
      </div>
      <form method="dialog" className="modal-backdrop">
        <button type="submit">close</button>
      </form>
    </dialog>
  );
}
