import { memo } from 'react';
import { Bar, BarChart, ReferenceLine, XAxis, YAxis } from 'recharts';
import type { LevelHistogram } from '@/core/detect/sound/levelOverview.ts';
import { DragLine } from '@/ui/DragLine.tsx';

interface Props {
  readonly histogram: LevelHistogram;
  readonly width: number;
  /** dBFS */
  readonly threshold: number;
  readonly onMove: (threshold: number) => void;
  readonly onSettle: (threshold: number) => void;
}

const HEIGHT = 74;
const AXIS = 16;
const TO = 0;
const FLAT = { top: 12, right: 0, bottom: 0, left: 0 };

/** How often each level occurs: room and voice stand apart, and the threshold should stand between them. */
export default function LevelChart({ histogram, width, threshold, onMove, onSettle }: Props) {
  const from = Math.max(histogram.from, Math.floor((histogram.floor - 10) / 10) * 10);
  const toLevel = (share: number) => Math.round((from + share * (TO - from)) * 2) / 2;
  return (
    <figure className="relative" style={{ width }} aria-label={wordedLevels(histogram, threshold)}>
      <Bars {...{ histogram, width, from }} />
      <div className="absolute inset-x-0 top-0" style={{ height: HEIGHT - AXIS }}>
        <DragLine
          at={Math.max(0, (threshold - from) / (TO - from))}
          label="Threshold: drag"
          onMove={(share) => onMove(toLevel(share))}
          onSettle={(share) => onSettle(toLevel(share))}
        />
      </div>
    </figure>
  );
}

/** Apart from the line: painting them anew at each step of a slider would take longer than finding the pauses. */
const Bars = memo(function Bars({ histogram, width, from }: { histogram: LevelHistogram; width: number; from: number }) {
  const most = Math.max(...histogram.shares.slice(1));
  const data = histogram.shares
    .map((share, k) => ({ level: histogram.from + k, share: Math.min(share, most) }))
    .filter(({ level }) => level >= from);
  const tick = { fontSize: 10, fill: 'currentColor' };
  const line = (x: number, label: string) => (
    <ReferenceLine
      x={Math.round(x)}
      stroke="currentColor"
      strokeDasharray="2 2"
      label={{ value: label, position: 'top', fontSize: 10, fill: 'currentColor' }}
    />
  );
  return (
    <BarChart accessibilityLayer={false} width={width} height={HEIGHT} data={data} margin={FLAT} barCategoryGap={0}>
      <XAxis dataKey="level" type="number" domain={[from, TO]} height={AXIS} tick={tick} tickCount={6} />
      <YAxis hide domain={[0, most]} />
      <Bar dataKey="share" fill="var(--ink-hatch)" isAnimationActive={false} barSize={Math.max(1, width / (TO - from) - 0.5)} />
      {line(histogram.floor, 'room')}
      {line(histogram.speech, 'voice')}
    </BarChart>
  );
});

const wordedLevels = ({ floor, speech }: LevelHistogram, threshold: number): string =>
  `Levels: room about ${Math.round(floor)} dBFS, voice about ${Math.round(speech)} dBFS, threshold ${Math.round(threshold)} dBFS`;
