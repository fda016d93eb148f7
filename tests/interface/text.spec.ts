import type { Page } from '@playwright/test';
import { expect, test } from './app.ts';

interface Painted {
  readonly text: string;
  readonly left: number;
  readonly right: number;
  readonly y: number;
}
interface PaintedRow {
  readonly label: string;
  readonly width: number;
  readonly texts: readonly Painted[];
  /** left edges of the rules that hold two lines together */
  readonly rules: readonly number[];
}

/** Keeps what is written on each canvas, as it is painted. */
async function watchPainting(page: Page): Promise<void> {
  await page.addInitScript(() => {
    type Row = { texts: Painted[]; rules: number[] };
    const rows = new Map<HTMLCanvasElement, Row>();
    const context = CanvasRenderingContext2D.prototype;
    const { fillText, clearRect, fillRect } = context;
    const of = (c: CanvasRenderingContext2D) => {
      const row = rows.get(c.canvas as HTMLCanvasElement) ?? { texts: [], rules: [] };
      rows.set(c.canvas as HTMLCanvasElement, row);
      return row;
    };
    context.clearRect = function (...box) {
      if (box[0] === 0 && box[1] === 0) rows.delete(this.canvas as HTMLCanvasElement);
      clearRect.apply(this, box);
    };
    context.fillText = function (text, x, y) {
      const { a, e, f } = this.getTransform();
      of(this).texts.push({ text, left: e + x * a, right: e + (x + this.measureText(text).width) * a, y: f + y });
      fillText.call(this, text, x, y);
    };
    context.fillRect = function (x, y, w, h) {
      if (w === 1 && h === 27) of(this).rules.push(x);
      fillRect.call(this, x, y, w, h);
    };
    (window as unknown as { paintedRows: () => PaintedRow[] }).paintedRows = () =>
      [...document.querySelectorAll<HTMLCanvasElement>('section[aria-label="Score"] canvas')].map((canvas) => ({
        label: canvas.getAttribute('aria-label') ?? '',
        width: canvas.clientWidth,
        ...(rows.get(canvas) ?? { texts: [], rules: [] }),
      }));
  });
}

const LINES = [67, 82];

/** What is written under a row, as somebody reads it: a phrase in two lines first its upper, then its lower one. */
function readOff({ texts, rules }: PaintedRow): string[] {
  const onLine = (line: number) =>
    texts.filter(({ y }) => Math.abs(y - (LINES[line] as number)) < 1).sort((a, b) => a.left - b.left);
  const [upper, lower] = [onLine(0), onLine(1)];
  const read: string[] = [];
  const starts = [...rules].sort((a, b) => a - b);
  for (let k = 0; k < upper.length; k++) {
    const rule = starts.find(
      (x) => Math.abs((upper[k] as Painted).left - x - 4) < 1.5 || (x === 0 && (upper[k] as Painted).left < 5),
    );
    read.push((upper[k] as Painted).text);
    if (rule === undefined) continue;
    let right = (upper[k] as Painted).right;
    while (k + 1 < upper.length && (upper[k + 1] as Painted).left - right < 5) {
      k++;
      right = (upper[k] as Painted).right;
      read.push((upper[k] as Painted).text);
    }
    const after = starts.find((x) => x > rule + 1) ?? Number.POSITIVE_INFINITY;
    const nextUpper = upper[k + 1]?.left ?? Number.POSITIVE_INFINITY;
    read.push(...lower.filter(({ left }) => left >= rule && left < Math.min(after, nextUpper)).map(({ text }) => text));
  }
  return read;
}

/** What is painted on the rows that are in sight. */
const paintedRows = (page: Page): Promise<PaintedRow[]> =>
  page.evaluate(() => (window as unknown as { paintedRows: () => PaintedRow[] }).paintedRows());

/** The words that a row says to those who do not see it. */
const wordsOf = ({ label }: PaintedRow): string[] => {
  const said = label
    .replace(/^From [^ ]+( [^ ]+)?: /, '')
    .replace(/(Isolde Marn|Tobit Fenn): /g, '')
    .split('; marked')[0] as string;
  return said === 'no words' ? [] : said.split(' ');
};

for (const width of [800, 1280, 1920])
  test(`the words of a row read as text at 6, 8, 20 and 60 seconds a row in a window of ${width} pixels`, async ({
    page,
    app,
  }) => {
    await page.setViewportSize({ width, height: 800 });
    await watchPainting(page);
    await app.episode(page, 'fog and birds');
    await page.getByRole('button', { name: 'Shorter rows' }).click();
    for (const seconds of [6, 8, 20, 60]) {
      while (!(await page.getByText(`${seconds} s a row`, { exact: true }).isVisible()))
        await page.getByRole('button', { name: 'Longer rows' }).click();
      await page.waitForTimeout(500);
      const rows = await paintedRows(page);
      expect(rows.length).toBeGreaterThan(2);
      let read = 0;
      for (const row of rows) {
        const words = wordsOf(row);
        let at = 0;
        for (const token of readOff(row)) {
          const skipped = /^\+(\d+)$/.exec(token);
          if (skipped) at += Number(skipped[1]);
          else {
            expect(token, `${seconds} s: ${row.label}`).toBe(words[at]);
            at++;
            read++;
          }
        }
        // What no count had room for is at the end of the row at most.
        if (width > 800 || seconds < 60) expect(at, `${seconds} s: ${row.label}`).toBe(words.length);
        for (const { left, right, y } of row.texts)
          if (y > 60) {
            expect(left).toBeGreaterThanOrEqual(-0.5);
            expect(right).toBeLessThanOrEqual(row.width + 0.5);
          }
      }
      expect(read).toBeGreaterThan(5);
    }
  });

test('a word that stands apart from its moment is still the word that is pointed at', async ({ page, app }) => {
  await watchPainting(page);
  await app.episode(page, 'fog and birds');
  while (!(await page.getByText('20 s a row', { exact: true }).isVisible()))
    await page.getByRole('button', { name: 'Longer rows' }).click();
  await page.waitForTimeout(500);
  const rows = await paintedRows(page);
  let tried = 0;
  for (const [k, row] of rows.slice(0, 5).entries()) {
    const word = row.texts.find(({ text, y }) => y > 80 && /^\w{4,}$/.test(text));
    const box = await page.locator('section[aria-label="Score"] canvas').nth(k).boundingBox();
    if (!word || !box || box.y < 60 || box.y > 640) continue;
    await page.mouse.dblclick(box.x + (word.left + word.right) / 2, box.y + word.y - 4);
    await expect(page.getByRole('region', { name: 'Selected words' })).toContainText(word.text);
    tried++;
  }
  expect(tried).toBeGreaterThan(1);
});
