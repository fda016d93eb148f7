interface Props {
  readonly label: string;
  /** 0..1 */
  readonly share: number;
  /** seconds left, once known */
  readonly remaining?: number | null | undefined;
}

/** Real progress with a measure and, once it can be told, the time left. */
export function Measure({ label, share, remaining }: Props) {
  const percent = Math.floor(share * 100);
  return (
    <div className="text-sm">
      <div className="flex justify-between gap-3">
        <span>{label}</span>
        <span className="tabular">
          {percent} %{remaining !== null && remaining !== undefined && ` · ${timeLeft(remaining)}`}
        </span>
      </div>
      <progress className="progress progress-primary w-full" value={percent} max={100} aria-label={label} />
    </div>
  );
}

function timeLeft(seconds: number): string {
  if (seconds < 60) return `${Math.max(1, Math.round(seconds))} s left`;
  if (seconds < 3600) return `${Math.round(seconds / 60)} min left`;
  return `${(seconds / 3600).toFixed(1)} h left`;
}
