import { createCanvas, type SKRSContext2D } from '@napi-rs/canvas';
import type { Reliability } from '@/core/detect/calibration/reliability.ts';

const SIDE = 190;
const MARGIN = 34;
const COLUMNS = 4;
const INK = '#27313a';
const QUIET = '#9aa4ad';

/** A reliability diagram a model: what was told along, what came true up, the size of a point how often. PNG. */
export function drawReliability(reports: readonly { readonly judged: string; readonly all: Reliability }[]): Buffer {
  const rows = Math.ceil(reports.length / COLUMNS);
  const canvas = createCanvas(COLUMNS * (SIDE + MARGIN) + MARGIN, rows * (SIDE + 2 * MARGIN) + MARGIN);
  const c = canvas.getContext('2d');
  c.fillStyle = '#ffffff';
  c.fillRect(0, 0, canvas.width, canvas.height);
  for (const [k, report] of reports.entries()) {
    c.save();
    c.translate(MARGIN + (k % COLUMNS) * (SIDE + MARGIN), MARGIN + Math.floor(k / COLUMNS) * (SIDE + 2 * MARGIN));
    drawOne(c, report.judged, report.all);
    c.restore();
  }
  return canvas.toBuffer('image/png');
}

function drawOne(c: SKRSContext2D, name: string, { bins, brier, count }: Reliability): void {
  c.strokeStyle = QUIET;
  c.strokeRect(0.5, 0.5, SIDE, SIDE);
  c.setLineDash([3, 3]);
  line(c, [
    [0, SIDE],
    [SIDE, 0],
  ]);
  c.setLineDash([]);
  const points = bins
    .filter((bin) => bin.count > 0)
    .map((bin) => ({ ...bin, x: bin.expected * SIDE, y: (1 - bin.observed) * SIDE }));
  c.strokeStyle = INK;
  line(
    c,
    points.map(({ x, y }) => [x, y] as const),
  );
  c.fillStyle = INK;
  for (const { x, y, count: here } of points) {
    c.beginPath();
    c.arc(x, y, 2 + 7 * Math.sqrt(here / Math.max(1, count)), 0, 2 * Math.PI);
    c.fill();
  }
  c.font = '13px sans-serif';
  c.fillText(name, 0, -8);
  c.font = '11px sans-serif';
  c.fillStyle = '#5b656e';
  c.fillText(`${count} told, Brier ${brier.toFixed(3)}`, 0, SIDE + 15);
}

function line(c: SKRSContext2D, points: readonly (readonly [number, number])[]): void {
  c.beginPath();
  for (const [k, [x, y]] of points.entries())
    if (k === 0) c.moveTo(x, y);
    else c.lineTo(x, y);
  c.stroke();
}
