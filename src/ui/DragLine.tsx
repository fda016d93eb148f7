import type { PointerEvent } from 'react';

interface Props {
  /** where the line stands, 0 to 1 from the left */
  readonly at: number;
  readonly label: string;
  readonly onMove: (share: number) => void;
  readonly onSettle: (share: number) => void;
}

/** A line over a chart that can be dragged. The same value has a slider, so that keys need not reach this one. */
export function DragLine({ at, label, onMove, onSettle }: Props) {
  const shareOf = ({ currentTarget, clientX }: PointerEvent<HTMLElement>) => {
    const { left, width } = currentTarget.getBoundingClientRect();
    return Math.max(0, Math.min(1, (clientX - left) / width));
  };
  return (
    <div
      aria-hidden
      className="absolute inset-0 cursor-ew-resize touch-none"
      title={label}
      onPointerDown={(event) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        onMove(shareOf(event));
      }}
      onPointerMove={(event) => event.buttons === 1 && onMove(shareOf(event))}
      onPointerUp={(event) => onSettle(shareOf(event))}
    >
      <div
        className="pointer-events-none absolute inset-y-0 w-0.5 bg-[var(--ink-playhead)]"
        style={{ left: `calc(${at * 100}% - 1px)` }}
      >
        <div className="absolute -top-0.5 -left-[3px] h-2 w-2 rotate-45 bg-[var(--ink-playhead)]" />
      </div>
    </div>
  );
}
