import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { folderFor, makeTalk } from '../media.ts';
import { broken, expect, figure, holdThread, measured, saved, slide, test, undo } from './app.ts';

const seconds = (clock: string) => clock.split(':').reduce((sum, part) => sum * 60 + Number(part), 0);
const programme = async (page: Page) => seconds((await figure(page, 'programme').textContent()) ?? '');
const value = (page: Page, label: string) => page.getByRole('textbox', { name: new RegExp(`^${label}, in`) });
const fold = (page: Page, title: string) => page.getByText(title, { exact: true }).click();
test('a tempo moves the single controls together, tighter step by step, and is undone in one go', async ({ page, app }) => {
  await app.episode(page, 'fog and birds');
  const start = await programme(page);
  const lengths: number[] = [];
  const pauses: number[] = [];
  for (const step of ['wide', 'even', 'taut']) {
    await page.getByRole('radio', { name: step }).check({ force: true });
    await expect(page.getByRole('radio', { name: step })).toBeChecked();
    await saved(page);
    await page.waitForTimeout(300);
    lengths.push(await programme(page));
    pauses.push(Number(await value(page, 'Shortest pause').inputValue()));
  }
  expect([...lengths].sort((a, b) => b - a)).toEqual(lengths);
  expect([...pauses].sort((a, b) => b - a)).toEqual(pauses);
  expect(new Set(pauses).size).toBe(3);
  await expect(figure(page, 'change')).toContainText('taken out');
  await undo(page, 3);
  await expect.poll(() => programme(page)).toBe(start);
});

test('the lines over the charts can be dragged, and say what they stand for', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const before = await programme(page);
  const gaps = page.getByRole('figure', { name: /Lengths of \d+ silences/ });
  const box = await gaps.boundingBox();
  if (!box) throw new Error('no chart');
  await page.mouse.move(box.x + box.width * 0.34, box.y + 20);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.7, box.y + 20, { steps: 6 });
  await expect.poll(() => programme(page)).toBeGreaterThan(before);
  await page.mouse.up();
  await saved(page);
  expect(Number(await value(page, 'Shortest pause').inputValue())).toBeGreaterThan(1.5);
  await expect(page.getByRole('figure', { name: /room about −?-?\d+ dBFS, voice about/ })).toBeVisible();
  await undo(page, 1);
});

test('arrows step finely, with Shift coarsely', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const slider = page.getByRole('slider', { name: 'Air after' });
  await slider.focus();
  await page.keyboard.press('ArrowRight');
  await expect(value(page, 'Air after')).toHaveValue('0.17');
  await page.keyboard.press('Shift+ArrowRight');
  await expect(value(page, 'Air after')).toHaveValue('0.27');
  await page.getByRole('button', { name: 'Reset Air after' }).click();
  await expect(value(page, 'Air after')).toHaveValue('0.16');
  await undo(page, 3);
});

test('a pause can be hurried or left as a hole by itself, and both reach the cut list', async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  const edl = async () => (await fetch(`${app.address}/api/episodes/${id}/handoff?format=edl`)).text();
  const before = await programme(page);
  await page.keyboard.press('f');
  await page.keyboard.press('f');
  for (const treatment of ['shortened', 'hurried']) {
    await page.keyboard.press('x');
    await expect(page.getByLabel('Looked at now')).toContainText(treatment);
  }
  await saved(page);
  expect(await programme(page)).toBeGreaterThan(before);
  expect(await edl()).toMatch(/^M2 /m);
  await page.keyboard.press('x');
  await expect(page.getByLabel('Looked at now')).toContainText('left as a hole');
  await saved(page);
  expect(await edl()).toMatch(/^\d{3} {2}BL /m);
  await undo(page, 3);
  await expect.poll(() => programme(page)).toBe(before);
});

test('one press gives air everywhere or here, or leaves the pause in; three alike offer it everywhere', async ({ page, app }) => {
  await app.episode(page, 'fog and birds');
  const before = await programme(page);
  await page.keyboard.press('f');
  await page.keyboard.press('a');
  await expect(value(page, 'Air after')).toHaveValue('0.21');
  await expect.poll(() => programme(page)).toBeGreaterThan(before + 1);
  const wider = await programme(page);
  await page.keyboard.press('Shift+S');
  await saved(page);
  await expect.poll(() => programme(page)).toBeGreaterThanOrEqual(wider);
  await page.keyboard.press('r');
  await expect(page.getByLabel('Looked at now')).toContainText('stays');
  await undo(page, 3);
  await expect.poll(() => programme(page)).toBe(before);
  for (let k = 0; k < 3; k++) {
    await page.keyboard.press('f');
    await expect(page.getByLabel('Looked at now')).toContainText('Pause');
    await page.keyboard.press('Shift+A');
    await saved(page);
  }
  await page.getByRole('tab', { name: 'Docket' }).click();
  const offer = page.getByRole('region', { name: 'Offer of air' });
  await expect(offer).toContainText('at 3 cuts, by about 0.05 s');
  for (const theme of ['booth', 'paper']) expect(await broken(page, theme)).toEqual([]);
  await offer.getByRole('button', { name: /more everywhere/ }).click();
  await expect(offer).toHaveCount(0);
  await page.getByRole('tab', { name: 'Pauses' }).click();
  await expect(value(page, 'Air after')).toHaveValue('0.21');
  await undo(page, 4);
  await expect.poll(() => programme(page)).toBe(before);
});

test('a marked range has settings of its own until it is unmarked', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const before = await programme(page);
  const box = await page.locator('section[aria-label="Score"] canvas').nth(1).boundingBox();
  if (!box) throw new Error('no row');
  await page.mouse.move(box.x + 200, box.y + 30);
  await page.mouse.down();
  await page.mouse.move(box.x + 700, box.y + 30 + 3 * 92, { steps: 8 });
  await page.mouse.up();
  await page.keyboard.press('m');
  const target = page.getByLabel('Settings for');
  await expect(target).not.toHaveValue('');
  await slide(page, 'Shortest pause', 3);
  await saved(page);
  await expect.poll(() => programme(page)).toBeGreaterThan(before + 2);
  await fold(page, 'What if');
  await expect(page.getByRole('figure', { name: /^At 3 s: programme/ })).toBeVisible();
  await target.selectOption('the whole recording');
  await expect(value(page, 'Shortest pause')).toHaveValue('0.50');
  await expect(page.getByRole('figure', { name: /^At 0\.5 s: programme/ })).toBeVisible();
  await page.getByText('marked ranges only').click();
  await expect.poll(() => programme(page)).toBeGreaterThan(before + 30);
  await undo(page, 1);
  await target.selectOption({ index: 1 });
  await page.getByRole('button', { name: 'Unmark' }).click();
  await expect.poll(() => programme(page)).toBe(before);
  await undo(page, 3);
});

test('settings are kept under a name, compared, given on as a file, and start the next recording', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  await slide(page, 'Shortest pause', 1.5);
  await saved(page);
  await fold(page, 'Settings to keep');
  await page.getByLabel('Name for these settings').fill('Slow bench');
  await page.getByRole('button', { name: 'Keep' }).click();
  await expect(page.getByText('“Slow bench” is kept.')).toBeVisible();
  await page.getByLabel('Name for these settings').fill('Slow bench');
  await page.getByRole('button', { name: 'Keep' }).click();
  await expect(page.getByRole('alert')).toContainText('There is a set named “Slow bench” already');
  await undo(page, 1);

  await page.getByRole('button', { name: 'Compare' }).click();
  await page.waitForTimeout(6500);
  await expect(figure(page, 'change')).toContainText(/Slow bench: −.* seams/);
  await page.getByRole('button', { name: 'Stop comparing' }).click();
  const coming = page.waitForEvent('download');
  await page.getByRole('link', { name: 'To a file' }).click();
  const file = await (await coming).path();
  expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({ schema: 'zetemis.settings/1', settings: { minPause: 1.5 } });
  const chooser = page.getByLabel('Settings file');
  await chooser.setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: readFileSync(file) });
  await expect(page.getByText('Slow bench 2', { exact: true })).toBeVisible();
  await chooser.setInputFiles({ name: 'x.json', mimeType: 'application/json', buffer: Buffer.from('{"minPause":1}') });
  await expect(page.getByRole('alert')).toContainText('no settings of this program');

  await page.getByLabel('for new recordings').first().click();
  await expect(page.getByText('New recordings start with “Slow bench”.')).toBeVisible();
  makeTalk(join(app.mediaFolder, 'next.wav'), [2, 0.8, 2, 2, 3]);
  const { entries } = await app.json('/api/folder');
  const { entry } = entries.find(({ path }: { path: string }) => path === 'next.wav');
  const { id } = await app.json('/api/episodes', 'POST', { from: 'folder', entry });
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await expect(value(page, 'Shortest pause')).toHaveValue('1.50');
  await expect(figure(page, 'found')).toHaveText('1');
  await app.json(`/api/episodes/${id}`, 'DELETE');
  const { sets } = await app.json('/api/sets');
  for (const set of sets) await app.json(`/api/sets/${set.id}`, 'DELETE');
});

test('what if: sixty other values are computed beside, for the shortest pause and the threshold', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const release = await holdThread(page);
  await fold(page, 'What if');
  await expect(page.getByRole('progressbar', { name: 'Working it out' })).toHaveAttribute('value', '0');
  release();
  await expect(page.getByRole('figure', { name: /^At 0\.5 s: programme \d:\d\d, \d+ seams/ })).toBeVisible();
  await page.getByRole('radio', { name: 'threshold' }).check({ force: true });
  await expect(page.getByRole('figure', { name: /dBFS: programme/ })).toBeVisible();
  // Both are there by now, and are not worked out again while nothing changes.
  const workedOut = () => page.evaluate(() => performance.getEntriesByName('zetemis:what-if').length);
  const both = await workedOut();
  await page.getByRole('radio', { name: 'shortest pause' }).check({ force: true });
  await expect(page.getByRole('figure', { name: /^At 0\.5 s/ })).toBeVisible();
  await page.getByRole('radio', { name: 'threshold' }).check({ force: true });
  await expect(page.getByRole('figure', { name: /dBFS: programme/ })).toBeVisible();
  expect(await workedOut()).toBe(both);
});

test('the speech curve is shown, and the measure can be told to keep out', async ({ page, app }) => {
  await app.episode(page, 'fog and birds');
  await fold(page, 'What counts as silence');
  await page.keyboard.press('c');
  await page.getByText('level alone').click();
  await saved(page);
  await expect(page.getByRole('radio', { name: 'level alone' })).toBeChecked();
  await page
    .getByRole('checkbox', { name: /follows|listens/ })
    .first()
    .uncheck();
  await saved(page);
  await expect(page.getByText(/1 follows|follows/).first()).toBeVisible();
  await undo(page, 2);
});

test('what goes by itself can be told to be bolder, and every step of it is undone', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  await measured(page);
  const open = async () => Number(await figure(page, 'open').textContent());
  const [usual, length] = [await open(), await programme(page)];
  expect(usual).toBeGreaterThan(0);
  const choice = page.getByRole('group', { name: 'Goes by itself' });
  await choice.getByText('75 %').click();
  await expect.poll(open).toBeLessThan(usual);
  expect(await programme(page)).toBeLessThan(length);
  await choice.getByText('99 %').click();
  await expect.poll(open).toBeGreaterThanOrEqual(usual);
  await undo(page, 2);
  await expect.poll(open).toBe(usual);
});

test('a recording in which nothing is heard says so, and that nothing of it would be handed over', async ({ page, app }) => {
  const path = join(folderFor('silent'), 'switched off.wav');
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'anullsrc=r=48000:cl=mono', '-t', '12', path]);
  const { id = '' } = await app.bring(new Uint8Array(readFileSync(path)), 'switched off.wav');
  await app.allMeasured();
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await expect(page.getByRole('alert')).toContainText('Nothing is heard in it');
  await expect(page.getByText('Too few rests are heard')).toBeVisible();
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByRole('alert')).toContainText('Nothing is left of it');
  await app.json(`/api/episodes/${id}`, 'DELETE');
});
