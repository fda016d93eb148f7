import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import type { Lesson } from '@/core/lessons/lesson.ts';
import { type App, broken, expect, figure, measured, saved, test } from './app.ts';

const DEMO = join(import.meta.dirname, '../../demo/media');
const tray = (page: Page) => page.getByRole('tabpanel');
const now = (page: Page) => page.getByRole('region', { name: 'Heard now' });
const left = async (page: Page) => Number.parseInt((await figure(page, 'docket-left').textContent()) ?? '', 10);
const wrongCuts = async (page: Page) => Number.parseFloat((await figure(page, 'wrong-cuts').textContent()) ?? '');
const stop = (page: Page) => page.locator('[data-stop="true"]');
const types = async (app: App, id: string): Promise<string[]> =>
  (await app.json(`/api/episodes/${id}/decisions?after=0`)).log.map(({ event }: { event: { type: string } }) => event.type);

/** A recording of the bench of its own, so that what is decided here is in nobody's way. */
async function bringBench(app: App, name: string): Promise<string> {
  const { id } = await app.bring(new Uint8Array(readFileSync(join(DEMO, 'carriage-clock.mp4'))), name);
  await app.json(`/api/episodes/${id}/words`, 'PUT', { text: readFileSync(join(DEMO, 'carriage-clock.words.json'), 'utf8') });
  await app.allMeasured();
  return id as string;
}

/** What was brought here, and what it taught, is left for no other test. */
test.afterEach(async ({ app }) => {
  const { episodes } = await app.json('/api/episodes');
  for (const { id, title } of episodes as { id: string; title: string }[]) {
    if (!title.startsWith('docket ')) continue;
    await app.json(`/api/episodes/${id}`, 'DELETE');
    await app.json(`/api/episodes/${id}?forGood`, 'DELETE');
  }
  const { lessons } = (await app.json('/api/lessons')) as { lessons: Lesson[] };
  for (const { about } of lessons) await app.json('/api/lessons', 'PUT', { set: null, about, to: 'forgotten' });
});

async function openDocket(page: Page, app: App, id: string): Promise<void> {
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await page.keyboard.press('Shift+Digit5');
  await expect(figure(page, 'wrong-cuts')).toHaveText(/\d/);
  await page.locator('section[aria-label="Score"]').focus();
}

test('by keys alone: each is played as it comes and decided by one key, until one could stop; all of it is undone', async ({
  page,
  app,
}) => {
  const id = await bringBench(app, 'docket keys.mp4');
  await openDocket(page, app, id);
  const [entries, wrong] = [await left(page), await wrongCuts(page)];
  expect(entries).toBeGreaterThan(6);
  await expect(stop(page)).toHaveCount(0);
  await page.keyboard.press('f');
  await expect(page.getByRole('button', { name: 'Play or stop' })).toHaveAttribute('aria-pressed', 'true');
  const first = await now(page).getByRole('status').textContent();
  await page.keyboard.press('e');
  await expect(now(page).getByRole('status')).not.toHaveText(first ?? '');
  expect(await left(page)).toBe(entries);
  let pressed = 0;
  while ((await stop(page).count()) === 0 && pressed < 40) {
    const before = await now(page).getByRole('status').textContent();
    await page.keyboard.press('v');
    pressed++;
    await expect(now(page)).not.toHaveText(before ?? '');
    await page.waitForTimeout(400);
  }
  await expect(stop(page)).toContainText('You could stop here');
  expect(pressed).toBeLessThan(entries + 4);
  expect(await left(page)).toBeLessThan(entries);
  expect(await wrongCuts(page)).toBeLessThanOrEqual(wrong);
  expect(new Set(await types(app, id))).toEqual(new Set(['verdict']));
  for (let k = 0; k < pressed; k++) await page.keyboard.press('Control+z');
  await saved(page);
  await expect.poll(() => left(page)).toBe(entries);
  await expect(stop(page)).toHaveCount(0);

  // What the sample shows corrects the figure: one of the sure ones was wrong after all.
  const told = await wrongCuts(page);
  await tray(page)
    .getByRole('button', { name: /one of the sure ones/ })
    .first()
    .click();
  await page.keyboard.press('r');
  await expect.poll(() => wrongCuts(page)).toBeGreaterThan(told);
  await page.keyboard.press('Control+z');
  await expect.poll(() => wrongCuts(page)).toBe(told);

  // More air moves an edge, plays it again, and goes on by itself.
  await page.keyboard.press('f');
  await page.keyboard.press('z');
  await expect.poll(() => types(app, id)).toContain('edge');
});

test('hands-free it goes on by itself, and only an objection needs a key', async ({ page, app }) => {
  const id = await bringBench(app, 'docket hands free.mp4');
  await openDocket(page, app, id);
  const entries = await left(page);
  await page.keyboard.press(']');
  await page.keyboard.press('Shift+H');
  await expect.poll(() => left(page), { timeout: 60_000 }).toBeLessThan(entries - 1);
  await expect.poll(async () => (await types(app, id)).length).toBeGreaterThanOrEqual(2);
  // An objection is what was heard last, and it goes on.
  await page.keyboard.press('r');
  await expect
    .poll(async () =>
      (await app.json(`/api/episodes/${id}/decisions?after=0`)).log.map(
        ({ event }: { event: { verdict?: string } }) => event.verdict,
      ),
    )
    .toContain('stay');
  await page.keyboard.press('k');
  await expect(
    tray(page)
      .getByRole('button', { name: /^Hands-free/ })
      .first(),
  ).toHaveAttribute('aria-pressed', 'false');
  const rest = await left(page);
  await page.waitForTimeout(4000);
  expect(await left(page)).toBe(rest);
});

test('listening through, keys are about the seam just heard, and what was heard is not asked again', async ({ page, app }) => {
  const id = await bringBench(app, 'docket through.mp4');
  await openDocket(page, app, id);
  await page.keyboard.press('Shift+L');
  await expect(page.getByRole('button', { name: 'As programme' })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('region', { name: 'Looked at now' })).toContainText(/Pause|Retake|Filler|Before the start/);
  await page.keyboard.press('r');
  await expect.poll(() => types(app, id)).toContain('verdict');
  await page.waitForTimeout(9000);
  await page.keyboard.press('k');
  await expect.poll(() => types(app, id)).toContain('heard');
  const { log } = await app.json(`/api/episodes/${id}/decisions?after=0`);
  const heard = log.filter(({ event }: { event: { type: string } }) => event.type === 'heard');
  expect(heard.flatMap(({ event }: { event: { about: object[] } }) => event.about).length).toBeGreaterThan(1);
  await page.keyboard.press('Shift+L');
  await expect(tray(page)).toContainText(/you judged here/);
  // What was heard cannot be unheard: undo takes back the verdict.
  await page.keyboard.press('Control+z');
  await saved(page);
  await page.reload();
  await measured(page);
  await page.keyboard.press('Shift+Digit5');
  await expect(tray(page)).toContainText(/you judged here/);
});

test('the sure ones settle in one move that can be taken back, and stay in the figure', async ({ page, app }) => {
  const id = await bringBench(app, 'docket sure.mp4');
  await openDocket(page, app, id);
  const [sure, wrong] = [await figure(page, 'sure').textContent(), await wrongCuts(page)];
  await page.keyboard.press('Shift+D');
  await expect(figure(page, 'sure')).toHaveCount(0);
  expect(await wrongCuts(page)).toBeCloseTo(wrong, 1);
  await page.keyboard.press('Control+z');
  await expect(figure(page, 'sure')).toHaveText(sure ?? '');
  const entries = await left(page);
  await page.keyboard.press('Shift+O');
  await expect.poll(() => left(page)).toBeGreaterThan(entries + 10);
  await page.keyboard.press('Control+z');
  await expect.poll(() => left(page)).toBe(entries);
  await saved(page);
});

test('verdicts teach the next recording, in words; each lesson can be switched off, and forgotten', async ({ page, app }) => {
  const id = await bringBench(app, 'docket teaches.mp4');
  const list = JSON.parse(await (await fetch(`${app.address}/api/episodes/${id}/handoff?format=json`)).text());
  const ums = list.proposals.filter(({ kind, group }: { kind: string; group?: string }) => kind === 'filler' && group === 'um');
  expect(ums.length).toBeGreaterThan(2);
  const events = ums.map((um: { start: number; end: number }, k: number) => ({
    id: `00000000-0000-4000-8000-0000000009${String(10 + k)}`,
    type: 'verdict',
    kind: 'filler',
    about: { start: um.start, end: um.end },
    verdict: 'stay',
  }));
  await app.json(`/api/episodes/${id}/decisions`, 'POST', { events });
  await app.allCut();
  const taught = async (): Promise<Lesson[]> => (await app.json('/api/lessons')).lessons;
  await expect.poll(async () => (await taught()).find(({ about }) => about === 'filler/um')?.wrong).toBeGreaterThan(2);

  const next = await bringBench(app, 'docket learns.mp4');
  expect(await types(app, next)).toEqual(['lessons']);
  await openDocket(page, app, next);
  await tray(page)
    .getByText(/^What was learned/)
    .click();
  await expect(tray(page)).toContainText(/“um”.*: you kept \d of \d/);
  const open = Number(await figure(page, 'open').textContent());
  await tray(page).getByRole('button', { name: 'All off here' }).click();
  await expect.poll(async () => Number(await figure(page, 'open').textContent())).not.toBe(open);
  await page.locator('section[aria-label="Score"]').focus();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => Number(await figure(page, 'open').textContent())).toBe(open);

  const kept = tray(page).getByRole('region', { name: 'For the next recordings' });
  await kept.getByRole('button', { name: /^Off: “um”:/ }).click();
  await expect(kept.getByRole('button', { name: /^On: “um”:/ })).toBeVisible();
  await kept.getByRole('button', { name: /^Forget: “um”:/ }).click();
  await expect(kept.getByRole('button', { name: /“um”:/ })).toHaveCount(0);
  expect((await taught()).some(({ about }) => about === 'filler/um')).toBe(false);
});

test('is accessible in both themes, and names each entry by what, where, why and how sure', async ({ page, app }) => {
  // Hands-free decides what it lets pass.
  await openDocket(page, app, await bringBench(app, 'docket access.mp4'));
  const entry = tray(page).getByRole('region', { name: 'What needs an ear' }).getByRole('button').first();
  await expect(entry).toHaveAccessibleName(/at \d+:\d\d\.\d: .*\d+ % likely/);
  for (const theme of ['paper', 'booth'])
    for (const state of ['list', 'heard', 'hands-free', 'through', 'learned']) {
      if (state === 'heard') {
        await entry.click();
        await page.keyboard.press('k');
      }
      if (state === 'hands-free') {
        await page.keyboard.press('Shift+H');
        await expect(tray(page)).toContainText('What you let pass is right');
      }
      if (state === 'through') await tray(page).getByRole('button', { name: 'listen through' }).click();
      if (state === 'learned')
        await tray(page)
          .getByText(/^What was learned/)
          .click();
      expect(await broken(page, theme), state).toEqual([]);
      if (state === 'hands-free') await page.keyboard.press('Shift+H');
      if (state === 'through') await tray(page).getByRole('button', { name: 'one by one' }).click();
      if (state === 'learned')
        await tray(page)
          .getByText(/^What was learned/)
          .click();
    }
});

test('on a touch screen held in a hand it is gone through with a thumb', async ({ browser, app }) => {
  const id = await bringBench(app, 'docket thumb.mp4');
  const phone = await browser.newContext({ viewport: { width: 390, height: 780 }, hasTouch: true, isMobile: true });
  const page = await phone.newPage();
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await page.getByRole('tab', { name: 'Docket' }).tap();
  await expect(figure(page, 'wrong-cuts')).toHaveText(/\d/);
  const entries = await left(page);
  await tray(page)
    .getByRole('button', { name: /^Start/ })
    .tap();
  const right = now(page).getByRole('button', { name: 'Right as it is proposed', exact: true });
  await expect(right).toBeVisible();
  expect((await right.boundingBox())?.height ?? 0).toBeGreaterThanOrEqual(44);
  // Nothing lies outside of what is seen.
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  await right.tap();
  await expect.poll(() => left(page)).toBeLessThan(entries);
  await now(page).getByRole('button', { name: 'Put back, leave in' }).tap();
  await expect.poll(async () => (await types(app, id)).filter((type) => type === 'verdict').length).toBeGreaterThanOrEqual(2);
  await phone.close();
});

test('tabs follow arrow keys, the trays are as wide as they are pulled, and the picture can be larger', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  await page.getByRole('tab', { name: 'Pauses' }).focus();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('tab', { name: 'Words' })).toBeFocused();
  await page.keyboard.press('End');
  await expect(page.getByRole('tab', { name: 'Hand-off' })).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('tab', { name: 'Pauses' })).toBeFocused();
  const side = page.getByRole('complementary', { name: 'Picture and trays' });
  const before = (await side.boundingBox())?.width ?? 0;
  const edge = page.getByRole('separator', { name: 'Width of the trays' });
  await edge.focus();
  for (let k = 0; k < 14; k++) await page.keyboard.press('ArrowLeft');
  expect((await side.boundingBox())?.width ?? 0).toBeGreaterThan(before + 200);
  const box = (await edge.boundingBox()) as { x: number; y: number };
  await page.mouse.move(box.x + 3, box.y + 300);
  await page.mouse.down();
  await page.mouse.move(box.x + 303, box.y + 300, { steps: 4 });
  await page.mouse.up();
  expect((await side.boundingBox())?.width ?? 0).toBeLessThan(before + 100);
  await page.locator('section[aria-label="Score"]').focus();
  await page.keyboard.press('Shift+P');
  await expect(page.locator('[data-picture="half"]')).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play or stop' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('k');
  for (const theme of ['booth', 'paper']) expect(await broken(page, theme)).toEqual([]);
  const popup = page.waitForEvent('popup');
  await page.getByRole('button', { name: 'Picture in a window of its own' }).click();
  const own = await popup;
  await expect(own.locator('video').first()).toBeVisible();
  await own.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play or stop' })).toHaveAttribute('aria-pressed', 'true');
  await own.keyboard.press('k');
  await own.close();
  await expect(page.locator('[data-picture="tray"]')).toBeVisible();
});
