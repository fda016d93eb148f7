import { createCanvas } from '@napi-rs/canvas';
import type { Mark } from './listener.ts';

interface Drawn {
  readonly duration: number;
  readonly docket: { readonly marks: readonly Mark[] };
  readonly inTime: { readonly marks: readonly Mark[] };
}

const [WIDTH, HEIGHT, MARGIN] = [760, 380, 56];
const INK = '#27313a';
const QUIET = '#9aa4ad';
const MOST_HEARD = 0.2;

/** Harm that is truly left, in clipped words in ten minutes, against the share of the recordings that was listened to. PNG. */
export function drawListening(results: readonly Drawn[]): Buffer {
  const canvas = createCanvas(WIDTH + 2 * MARGIN, HEIGHT + 2 * MARGIN);
  const c = canvas.getContext('2d');
  c.fillStyle = '#ffffff';
  c.fillRect(0, 0, canvas.width, canvas.height);
  c.translate(MARGIN, MARGIN);
  const curves = [
    { name: 'docket', points: meanCurve(results.map(({ duration, docket }) => ({ duration, marks: docket.marks }))), dash: [] },
    {
      name: 'in order of time',
      points: meanCurve(results.map(({ duration, inTime }) => ({ duration, marks: inTime.marks }))),
      dash: [6, 4],
    },
  ];
  const most = Math.ceil(Math.max(0.1, ...curves.flatMap(({ points }) => points)));
  c.strokeStyle = QUIET;
  c.strokeRect(0, 0, WIDTH, HEIGHT);
  c.fillStyle = INK;
  c.font = '13px sans-serif';
  c.fillText('harm left, in clipped words in ten minutes', 0, -14);
  c.fillText('share of the recording that was listened to', WIDTH - 260, HEIGHT + 40);
  for (let k = 0; k <= 4; k++) {
    c.fillText(`${((100 * MOST_HEARD * k) / 4).toFixed(0)} %`, (WIDTH * k) / 4 - 10, HEIGHT + 18);
    c.fillText(((most * k) / 4).toFixed(2), -42, HEIGHT - (HEIGHT * k) / 4 + 4);
  }
  for (const [n, { name, points, dash }] of curves.entries()) {
    c.setLineDash(dash);
    c.strokeStyle = INK;
    c.lineWidth = 2;
    c.beginPath();
    for (const [k, value] of points.entries()) c.lineTo((WIDTH * k) / (points.length - 1), HEIGHT - (HEIGHT * value) / most);
    c.stroke();
    c.setLineDash(dash);
    c.beginPath();
    c.moveTo(WIDTH - 190, 24 + 20 * n);
    c.lineTo(WIDTH - 150, 24 + 20 * n);
    c.stroke();
    c.fillText(name, WIDTH - 140, 28 + 20 * n);
  }
  return canvas.toBuffer('image/png');
}

const STEPS = 80;

/** Harm in ten minutes over all recordings, each listened to for the same share of its length. */
function meanCurve(walks: readonly { readonly duration: number; readonly marks: readonly Mark[] }[]): number[] {
  const total = walks.reduce((sum, { duration }) => sum + duration, 0);
  return Array.from({ length: STEPS + 1 }, (_, k) => {
    const share = (MOST_HEARD * k) / STEPS;
    const harm = walks.reduce(
      (sum, { duration, marks }) => sum + (marks.findLast(({ heard }) => heard <= share * duration + 1e-9)?.harm ?? 0),
      0,
    );
    return harm / (total / 600);
  });
}
