import type { Page } from '@playwright/test';
import { type App, expect, figure, saved, slide, test } from './app.ts';

const tray = (page: Page) => page.getByRole('tabpanel');
const attempt = (page: Page, k: number) => tray(page).getByRole('button', { name: `Keep attempt ${k}`, exact: true });
const seconds = (clock: string) => clock.split(':').reduce((sum, part) => sum * 60 + Number(part), 0);
const programme = async (page: Page) => seconds((await figure(page, 'programme').textContent()) ?? '');

async function openTakes(page: Page, app: App, title = 'carriage clock'): Promise<string> {
  const id = await app.episode(page, title);
  await page.keyboard.press('Shift+Digit3');
  await expect(tray(page)).toContainText('Take 1 of');
  await page.locator('section[aria-label="Score"]').focus();
  return id;
}

/** Takes back steps until there is none left, so that the next test finds the demo as it came. */
async function undoAll(page: Page, steps: number): Promise<void> {
  for (let k = 0; k < steps; k++) await page.keyboard.press('Control+z');
  await saved(page);
}

/** The retakes of the episode's cut list as it would be handed over, by their start. */
async function retakes(app: App, id: string): Promise<{ start: number; end: number; verdict: string; group: string }[]> {
  const list = JSON.parse(await (await fetch(`${app.address}/api/episodes/${id}/handoff?format=json`)).text());
  return list.proposals.filter(({ kind }: { kind: string }) => kind === 'retake');
}

test('four groups are laid out with what is suggested and why, and stepped through by key', async ({ page, app }) => {
  await openTakes(page, app);
  await page.keyboard.press('f');
  await expect(tray(page)).toContainText('Take 1 of 4');
  await expect(tray(page)).toContainText('breaks off');
  await expect(tray(page)).toContainText(/Suggested: 2/);
  await page.keyboard.press('f');
  await expect(tray(page)).toContainText('Take 2 of 4');
  await expect(tray(page)).toContainText(/Suggested: 1, more fluent/);
  await tray(page).getByRole('button', { name: 'why' }).click();
  await expect(tray(page).getByRole('table', { name: 'Scores' })).toContainText('steady level');
  // What differs stands out by more than its colour.
  const other = tray(page).getByRole('button', { name: /^clock\., out/ });
  await expect(other).toHaveCSS('text-decoration-line', /underline/);
  await page.keyboard.press('d');
  await expect(tray(page)).toContainText('Take 1 of 4');
});

test('an attempt is chosen by key and by button, undone, and reaches the hand-off', async ({ page, app }) => {
  const id = await openTakes(page, app);
  for (const _ of [1, 2]) await page.keyboard.press('f');
  const before = await retakes(app, id);
  await page.keyboard.press('2');
  await expect(attempt(page, 2)).toHaveAttribute('aria-pressed', 'true');
  await expect(tray(page)).toContainText('You keep 2.');
  await saved(page);
  const after = await retakes(app, id);
  expect(after.filter(({ group }) => group === 'take 2')[0]?.start).toBeLessThan(60);
  expect(before.filter(({ group }) => group === 'take 2')[0]?.start).toBeGreaterThan(60);
  await attempt(page, 1).click();
  await expect(tray(page)).toContainText('You keep 1.');
  await undoAll(page, 2);
  await expect(tray(page)).not.toContainText('You keep');
  expect(await retakes(app, id)).toEqual(before);
});

test('what is chosen stays chosen when settings change', async ({ page, app }) => {
  const id = await openTakes(page, app);
  for (const _ of [1, 2]) await page.keyboard.press('f');
  await page.keyboard.press('2');
  await saved(page);
  await page.keyboard.press('Shift+Digit1');
  await slide(page, 'Shortest pause', 1.4);
  await saved(page);
  await page.getByRole('tab', { name: 'Takes' }).click();
  await expect(tray(page)).toContainText('You keep 2.');
  expect((await retakes(app, id)).find(({ group }) => group === 'take 2')?.start).toBeLessThan(60);
  await undoAll(page, 2);
});

test('all stay where it is no retake, and one more may be kept', async ({ page, app }) => {
  const id = await openTakes(page, app);
  await page.keyboard.press('f');
  const length = await programme(page);
  await page.keyboard.press('r');
  await expect(tray(page)).toContainText('You keep all.');
  await saved(page);
  expect(await programme(page)).toBeGreaterThan(length + 1.5);
  expect((await retakes(app, id)).map(({ group }) => group)).not.toContain('take 1');
  await page.keyboard.press('t');
  await expect(tray(page)).toContainText('You keep 2.');
  await tray(page).getByRole('button', { name: 'More about attempt 1' }).click();
  await tray(page).getByRole('button', { name: 'Keep it as well' }).click();
  await expect(tray(page)).toContainText('You keep all.');
  await undoAll(page, 3);
  expect(await programme(page)).toBeCloseTo(length, 1);
});

test('a line begins with one attempt and goes on with another, and the join is heard', async ({ page, app }) => {
  const id = await openTakes(page, app);
  for (const _ of [1, 2, 3]) await page.keyboard.press('f');
  await tray(page)
    .getByRole('button', { name: /^hole, out/ })
    .click();
  await expect(tray(page)).toContainText('You begin with 1, then go on with 2.');
  await expect(page.getByRole('button', { name: 'Play or stop' })).toContainText('Stop');
  await saved(page);
  const parts = (await retakes(app, id)).filter(({ group }) => group === 'take 3');
  expect(parts).toHaveLength(2);
  // The end of the first and the beginning of the second go, as one stretch without a scrap between.
  expect(parts[0]?.end).toBeCloseTo(parts[1]?.start ?? 0, 2);
  await page.keyboard.press('0');
  await expect(page.getByRole('button', { name: 'Play or stop' })).toContainText('Stop');
  await undoAll(page, 1);
});

test('a group is split, joined with the next, and its attempts get other edges', async ({ page, app }) => {
  const id = await openTakes(page, app);
  await page.keyboard.press('f');
  const before = await retakes(app, id);
  await tray(page).getByRole('button', { name: 'Join with the next take' }).click();
  await expect(tray(page)).toContainText('Take 1 of 3');
  await expect(attempt(page, 4)).toBeVisible();
  await tray(page).getByRole('button', { name: 'More about attempt 3' }).click();
  await tray(page).getByRole('button', { name: 'Split: another line from here' }).click();
  await expect(tray(page)).toContainText('Take 1 of 4');
  await tray(page).getByRole('button', { name: 'More about attempt 1' }).click();
  await tray(page).getByRole('button', { name: 'Begins earlier' }).click();
  await saved(page);
  const [moved] = await retakes(app, id);
  expect(moved?.start).toBeLessThan((before[0]?.start ?? 0) - 0.2);
  await undoAll(page, 3);
  expect(await retakes(app, id)).toEqual(before);
});

test('attempts are added from the score, and a group is made by hand of what is like a selection', async ({ page, app }) => {
  const id = await openTakes(page, app);
  await page.keyboard.press('f');
  // A group of its own is taken apart first, then found again from a selection.
  await tray(page).getByRole('button', { name: 'More about attempt 1' }).click();
  await tray(page).getByRole('button', { name: 'No attempt: it stays' }).click();
  await expect(tray(page)).toContainText('of 3');
  await page.keyboard.press('Control+f');
  await page
    .getByRole('searchbox', { name: /find/i })
    .or(page.getByRole('textbox', { name: /find/i }))
    .first()
    .fill('So the first thing I do is look at the');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.locator('section[aria-label="Score"]').focus();
  await page.keyboard.press('n');
  await page.keyboard.press('Shift+F');
  await expect(tray(page)).toContainText('of 4');
  await saved(page);
  expect((await retakes(app, id)).filter(({ group }) => group === 'take 1')).toHaveLength(1);

  const box = await page.locator('section[aria-label="Score"] canvas').nth(1).boundingBox();
  if (!box) throw new Error('no row');
  await page.mouse.move(box.x + 560, box.y + 70);
  await page.mouse.down();
  await page.mouse.move(box.x + 800, box.y + 70, { steps: 5 });
  await page.mouse.up();
  const tries = tray(page).locator('[data-attempt]');
  const count = await tries.count();
  await page.keyboard.press('Shift+I');
  await expect(tries).toHaveCount(count + 1);
  await undoAll(page, 3);
});

test('attempts are played: one, all in turn, and in their place', async ({ page, app }) => {
  await openTakes(page, app);
  await page.keyboard.press('f');
  const playing = page.getByRole('button', { name: 'Play or stop' });
  await tray(page).getByRole('button', { name: 'Play attempt 1' }).click();
  await expect(playing).toContainText('Stop');
  await expect(playing).toContainText('Play', { timeout: 20_000 });
  await page.keyboard.press('q');
  await expect(playing).toContainText('Stop');
  await page.keyboard.press('k');
  await page.keyboard.press('w');
  await expect(playing).toContainText('Stop');
  await page.keyboard.press('k');
});

test('chatter and cues are somebody’s question until they are decided', async ({ page, app }) => {
  const id = await openTakes(page, app);
  const asides = tray(page).getByRole('region', { name: 'Asides' });
  await expect(asides).toContainText('is the red light on');
  const open = Number(await figure(page, 'open').textContent());
  await asides.getByRole('button', { name: 'take out' }).first().click();
  // What lies inside it, such as a filler that was open, is nobody's question any more either.
  await expect.poll(async () => Number(await figure(page, 'open').textContent())).toBeLessThan(open);
  await saved(page);
  const list = JSON.parse(await (await fetch(`${app.address}/api/episodes/${id}/handoff?format=json`)).text());
  expect(list.proposals.find(({ kind }: { kind: string }) => kind === 'head')).toMatchObject({ verdict: 'out', start: 0 });
  await undoAll(page, 1);
});
