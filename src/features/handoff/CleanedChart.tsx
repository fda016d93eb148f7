import { Line, LineChart, Tooltip, XAxis, YAxis } from 'recharts';
import { BANDS } from '@/core/clean/noiseProfile.ts';
import type { TrackReport } from '@/core/clean/report.ts';

interface Props {
  readonly bands: NonNullable<TrackReport['bands']>;
  readonly width: number;
}

interface Point {
  readonly hertz: number;
  readonly noiseBefore: number;
  readonly noiseAfter: number;
  readonly speechBefore: number;
  readonly speechAfter: number;
}

const spokenHertz = (hertz: number): string => (hertz < 1000 ? `${Math.round(hertz)} Hz` : `${(hertz / 1000).toFixed(1)} kHz`);
/** What is softer than this is heard by nobody. */
const LOWEST = -100;
/** It is drawn all the same, so far above the axis. */
const ABOVE_AXIS = 5;
/** dB from one mark to the next. */
const STEP = 20;

/** What is quiet and what is loud in each band, as recorded (dashed) and cleaned (solid). */
export default function CleanedChart({ bands: { before, after }, width }: Props) {
  const at = (levels: readonly number[], k: number) => Math.max(LOWEST, levels[k] ?? LOWEST);
  const points = BANDS.map(
    (hertz, k): Point => ({
      hertz,
      noiseBefore: at(before.noise, k),
      noiseAfter: at(after.noise, k),
      speechBefore: at(before.speech, k),
      speechAfter: at(after.speech, k),
    }),
  );
  const highest =
    STEP * Math.ceil(Math.max(...points.map(({ speechBefore, speechAfter }) => Math.max(speechBefore, speechAfter))) / STEP);
  const tick = { fontSize: 10, fill: 'currentColor' };
  const lowered = Math.max(...points.map(({ noiseBefore, noiseAfter }) => noiseBefore - noiseAfter));
  const line = { dot: false, isAnimationActive: false, strokeWidth: 1.5 } as const;
  const [quiet, loud] = ['var(--ink-playhead)', 'currentColor'];
  return (
    <figure aria-label={`Noise is lowered by ${Math.round(lowered)} dB in the band where it is lowered most`}>
      <LineChart
        accessibilityLayer={false}
        width={width}
        height={120}
        data={points}
        margin={{ top: 6, right: 4, bottom: 0, left: 0 }}
      >
        <XAxis
          dataKey="hertz"
          type="number"
          scale="log"
          domain={['dataMin', 'dataMax']}
          ticks={[125, 500, 2000, 8000]}
          height={16}
          tick={tick}
          tickFormatter={spokenHertz}
        />
        <YAxis
          width={34}
          tick={tick}
          domain={[LOWEST - ABOVE_AXIS, highest]}
          ticks={Array.from({ length: (highest - LOWEST) / STEP + 1 }, (_, k) => LOWEST + k * STEP)}
          tickFormatter={(level: number) => `${level}`}
        />
        <Tooltip
          isAnimationActive={false}
          content={({ active, payload }) => {
            const point = payload?.[0]?.payload as Point | undefined;
            if (!active || !point) return null;
            const moved = (from: number, to: number) => `${Math.round(from)} to ${Math.round(to)} dB`;
            return (
              <div className="tabular rounded border border-base-300 bg-base-100 px-2 py-1 text-xs">
                {spokenHertz(point.hertz)}
                <br />
                speech {moved(point.speechBefore, point.speechAfter)}
                <br />
                noise {moved(point.noiseBefore, point.noiseAfter)}
              </div>
            );
          }}
        />
        <Line dataKey="noiseBefore" stroke={quiet} strokeDasharray="3 3" {...line} />
        <Line dataKey="noiseAfter" stroke={quiet} {...line} />
        <Line dataKey="speechBefore" stroke={loud} strokeDasharray="3 3" {...line} />
        <Line dataKey="speechAfter" stroke={loud} {...line} />
      </LineChart>
    </figure>
  );
}
