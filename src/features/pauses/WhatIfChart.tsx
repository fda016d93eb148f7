import { Line, LineChart, ReferenceDot, ReferenceLine, Tooltip, XAxis, YAxis } from 'recharts';
import { formatClock, formatLength } from '@/core/time/clock.ts';
import type { WhatIfPoint } from './whatIf.ts';

interface Props {
  readonly points: readonly WhatIfPoint[];
  readonly width: number;
  readonly unit: string;
  /** the present value */
  readonly value: number;
}

/** Programme length (solid) and seams (dashed) along the values of one setting, the present one marked. */
export default function WhatIfChart({ points, width, unit, value }: Props) {
  const now = points.reduce((best, point) => (Math.abs(point.value - value) < Math.abs(best.value - value) ? point : best));
  const tick = { fontSize: 10, fill: 'currentColor' };
  return (
    <figure aria-label={`At ${value} ${unit}: programme ${formatClock(now.length)}, ${now.seams} seams`}>
      <LineChart
        accessibilityLayer={false}
        width={width}
        height={130}
        data={[...points]}
        margin={{ top: 6, right: 0, bottom: 0, left: 0 }}
      >
        <XAxis
          dataKey="value"
          type="number"
          domain={['dataMin', 'dataMax']}
          height={16}
          tick={tick}
          tickFormatter={(at: number) => `${at} ${unit}`}
          tickCount={4}
        />
        <YAxis
          yAxisId="length"
          width={40}
          tick={tick}
          domain={['auto', 'auto']}
          tickFormatter={(at: number) => formatClock(at)}
        />
        <YAxis yAxisId="seams" orientation="right" width={30} tick={tick} />
        <Tooltip
          isAnimationActive={false}
          content={({ active, payload }) => {
            const point = payload?.[0]?.payload as WhatIfPoint | undefined;
            if (!active || !point) return null;
            return (
              <div className="tabular rounded border border-base-300 bg-base-100 px-2 py-1 text-xs">
                {unit === 's' ? formatLength(point.value) : `${point.value} ${unit}`}: {formatClock(point.length)}, {point.seams}{' '}
                seams
              </div>
            );
          }}
        />
        <ReferenceLine yAxisId="length" x={now.value} stroke="var(--ink-playhead)" />
        <Line yAxisId="length" dataKey="length" stroke="currentColor" strokeWidth={1.5} dot={false} isAnimationActive={false} />
        <Line yAxisId="seams" dataKey="seams" stroke="currentColor" strokeDasharray="3 3" dot={false} isAnimationActive={false} />
        <ReferenceDot yAxisId="length" x={now.value} y={now.length} r={4} fill="var(--ink-playhead)" stroke="none" />
      </LineChart>
      <figcaption className="text-xs quiet">Solid: length of the programme. Dashed: seams.</figcaption>
    </figure>
  );
}
