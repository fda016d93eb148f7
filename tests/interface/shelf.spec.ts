import { copyFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { folderFor, makeTalk, makeVideo, makeWrongFiles } from '../media.ts';
import { broken, expect, measured, saved, test } from './app.ts';

const cards = 'ul[aria-label="Episodes"] > li';

test('the shelf shows both demo episodes with their figures', async ({ page, app }) => {
  await page.goto(app.address);
  const clock = page.locator(cards, { hasText: 'the carriage clock' });
  await expect(clock).toContainText('3:19');
  await expect(clock).toContainText('seams');
  await expect(page.locator(cards, { hasText: 'fog and birds' })).toContainText('2 tracks');
});

test('an upload goes on where it stopped when the server was killed, and is measured', async ({ page, app }) => {
  await page.goto(app.address);
  const talk = makeTalk(join(folderFor('upload'), 'evening talk.wav'), [4, 2, 240, 3, 60]);
  // A slow line, so that there is a middle to be killed in.
  const session = await page.context().newCDPSession(page);
  await session.send('Network.enable');
  await session.send('Network.emulateNetworkConditions', {
    offline: false,
    latency: 5,
    downloadThroughput: -1,
    uploadThroughput: 6_000_000,
  });
  let sentAgain = 0;
  await page.getByLabel('Recording to upload').setInputFiles(talk);
  const coming = page.getByRole('list', { name: 'Coming in' });
  await expect(coming).toContainText(/[3-6]\d %/);
  await app.kill();
  await expect(coming).toContainText('trying again', { timeout: 30_000 });
  page.on('request', (request) => {
    if (request.method() === 'PATCH') sentAgain += request.postDataBuffer()?.length ?? 0;
  });
  await session.send('Network.emulateNetworkConditions', {
    offline: false,
    latency: 0,
    downloadThroughput: -1,
    uploadThroughput: -1,
  });
  await app.start();
  const card = page.locator(cards, { hasText: 'evening talk' });
  await expect(card).toContainText('seams', { timeout: 60_000 });
  await expect(card).toContainText('5:09');
  expect(sentAgain).toBeLessThan(309 * 44_100 * 2 * 0.8);
  await expect(page.locator(cards, { hasText: 'evening talk' })).toHaveCount(1);
});

test('wrong files are refused in plain words and leave nothing on the shelf', async ({ page, app }) => {
  await page.goto(app.address);
  await expect(page.locator(cards).first()).toBeVisible();
  const before = await page.locator(cards).count();
  for (const { path, says } of makeWrongFiles(folderFor('wrong'))) {
    await page.getByLabel('Recording to upload').setInputFiles(path);
    const alert = page.getByRole('alert').filter({ hasText: basename(path) });
    await expect(alert).toContainText(says);
    await alert.getByRole('button', { name: 'Dismiss' }).click();
  }
  await page.reload();
  await expect(page.locator(cards).first()).toBeVisible();
  expect(await page.locator(cards).count()).toBe(before);
});

test('an awkward name neither breaks the page nor the cut list', async ({ page, app }) => {
  await page.goto(app.address);
  const plain = makeVideo(join(folderFor('name'), 'plain.mp4'), 6, '-c:v', 'libx264', '-c:a', 'aac');
  const name = '"><img src=x onerror=alert(1)> \u202e../../x.mp4';
  const { readFileSync } = await import('node:fs');
  await page.getByLabel('Recording to upload').setInputFiles({ name, mimeType: 'video/mp4', buffer: readFileSync(plain) });
  const card = page.locator(cards).filter({ hasText: 'x.mp4' });
  await expect(card).toContainText('seams', { timeout: 30_000 });
  await card.getByRole('link').click();
  await measured(page);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByRole('link', { name: /x\.edl/ })).toBeVisible();
});

test('a recording of the media folder is used where it lies, renamed and removed', async ({ page, app }) => {
  copyFileSync(makeTalk(join(folderFor('linked'), 'a.flac'), [3, 2, 3], '-c:a', 'flac'), join(app.mediaFolder, 'kept here.flac'));
  await page.goto(app.address);
  await page.getByRole('button', { name: 'From the media folder' }).click();
  await page.getByRole('button', { name: /kept here\.flac/ }).click();
  const card = page.locator(cards, { hasText: 'kept here.flac' });
  await expect(card).toContainText('seams', { timeout: 30_000 });
  await card.getByRole('button', { name: /^Rename/ }).click();
  await page.getByLabel('Title').fill('Morning watch');
  await page.getByRole('button', { name: 'Rename', exact: true }).click();
  await expect(card.getByRole('link', { name: 'Morning watch' })).toBeVisible();
  await card.getByRole('button', { name: /^Remove/ }).click();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(card).toHaveCount(0);
});

for (const theme of ['paper', 'booth'] as const)
  test(`shelf and score pass the accessibility rules in the ${theme} theme`, async ({ page, app }) => {
    await page.addInitScript((name) => localStorage.setItem('zetemis.theme', name), theme);
    await page.goto(app.address);
    await expect(page.locator(cards).first()).toBeVisible();
    expect(await broken(page)).toEqual([]);
    await app.episode(page, 'carriage clock');
    await saved(page);
    expect(await broken(page)).toEqual([]);
    await page.getByRole('tab', { name: 'Hand-off' }).click();
    await expect(page.getByText('CMX 3600 EDL')).toBeVisible();
    expect(await broken(page)).toEqual([]);
  });
