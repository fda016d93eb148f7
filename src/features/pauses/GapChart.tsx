import { memo } from 'react';
import { Bar, BarChart, XAxis, YAxis } from 'recharts';
import { firstAfter } from '@/core/time/range.ts';
import { DragLine } from '@/ui/DragLine.tsx';

interface Props {
  /** lengths of all silences in seconds, ascending */
  readonly lengths: readonly number[];
  readonly width: number;
  readonly shortest: number;
  readonly onMove: (seconds: number) => void;
  readonly onSettle: (seconds: number) => void;
}

const HEIGHT = 64;
const AXIS = 16;
/** Lengths from an eighth of a second to eight, each doubling as wide as the last. */
const FROM = 0.125;
const DOUBLINGS = 6;
const BINS = 30;
const FLAT = { top: 4, right: 0, bottom: 0, left: 0 };
const TICKS = [0.25, 0.5, 1, 2, 4] as const;

const toShare = (seconds: number) => Math.log2(seconds / FROM) / DOUBLINGS;
const toSeconds = (share: number) => Math.max(0.1, Math.round((FROM * 2 ** (share * DOUBLINGS)) / 0.05) * 0.05);

/** How long this speaker pauses; what stands right of the line is taken. */
export default function GapChart({ lengths, width, shortest, onMove, onSettle }: Props) {
  const over = lengths.length - firstAfter(lengths.length, (k) => lengths[k] as number, shortest - 1e-9);
  return (
    <figure
      className="relative"
      style={{ width }}
      aria-label={`Lengths of ${lengths.length} silences; ${over} are as long as the shortest pause or longer`}
    >
      <Bars {...{ lengths, width }} />
      <div className="absolute inset-x-0 top-0" style={{ height: HEIGHT - AXIS }}>
        <DragLine
          at={Math.max(0, Math.min(1, toShare(shortest)))}
          label="Shortest pause: drag"
          onMove={(share) => onMove(toSeconds(share))}
          onSettle={(share) => onSettle(toSeconds(share))}
        />
      </div>
    </figure>
  );
}

/** Apart from the line: painting them anew at each step of a slider would take longer than finding the pauses. */
const Bars = memo(function Bars({ lengths, width }: { lengths: readonly number[]; width: number }) {
  const counts = new Array<number>(BINS).fill(0);
  for (const length of lengths) {
    const bin = Math.max(0, Math.min(BINS - 1, Math.floor(toShare(length) * BINS)));
    counts[bin] = (counts[bin] as number) + 1;
  }
  const data = counts.map((count, k) => ({ at: (k + 0.5) / BINS, count }));
  return (
    <BarChart accessibilityLayer={false} width={width} height={HEIGHT} data={data} margin={FLAT} barCategoryGap={0}>
      <XAxis
        dataKey="at"
        type="number"
        domain={[0, 1]}
        height={AXIS}
        ticks={TICKS.map(toShare)}
        tickFormatter={(share: number) => `${Number((FROM * 2 ** (share * DOUBLINGS)).toFixed(2))} s`}
        tick={{ fontSize: 10, fill: 'currentColor' }}
        interval={0}
      />
      <YAxis hide />
      <Bar dataKey="count" fill="var(--ink-hatch)" isAnimationActive={false} barSize={width / BINS - 1} />
    </BarChart>
  );
});
