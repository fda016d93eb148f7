import { RotateCcw } from 'lucide-react';

/** Puts one control back to its default. */
export function ResetButton({ label, onReset }: { readonly label: string; readonly onReset: () => void }) {
  return (
    <button
      type="button"
      className="btn btn-ghost btn-xs h-4 min-h-4 px-1 text-xs"
      aria-label={`Reset ${label}`}
      title="Back to the default"
      onClick={onReset}
    >
      <RotateCcw size={11} aria-hidden /> reset
    </button>
  );
}
