import { randomUUID } from 'node:crypto';
import { copyFileSync, readFileSync, rmSync, statSync, utimesSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { Access } from '@/server/access.ts';
import { makeTalk } from '../media.ts';
import { type App, expect, figure, measured, saved, test } from './app.ts';

const PASSPHRASE = 'the verge escapement ticks';
/** As a page does: asked again while the server cannot keep it. */
const decide = async (app: App, id: string, event: object) => {
  const events = [{ id: randomUUID(), ...event }];
  await expect.poll(async () => (await app.json(`/api/episodes/${id}/decisions`, 'POST', { events }))?.log?.length).toBe(1);
};
test('what the server refuses for good is set aside with its reason, and nothing waits behind it', async ({ app, page }) => {
  const id = await app.episode(page, 'carriage clock');
  // Half a character, as an old version of a program or another tab may have left it in the storage.
  const [bad, good] = [randomUUID(), randomUUID()];
  await page.evaluate(
    ([episode, first, second]) => {
      const keep = (event: { id: string }, order: number) =>
        localStorage.setItem(`zetemis.queue.${episode}.${event.id}`, JSON.stringify({ at: Date.now(), order, event }));
      keep({ id: first as string, type: 'speaker', about: { start: 0, end: 1 }, to: 'Marn \ud83d' } as { id: string }, 0);
      keep({ id: second as string, type: 'cut', about: { start: 2, end: 2.5 } } as { id: string }, 1);
    },
    [id, bad, good],
  );
  await page.reload();
  await measured(page);
  await saved(page);
  const { log } = (await app.json(`/api/episodes/${id}`)) as { log: { event: { id: string } }[] };
  expect(log.map(({ event }) => event.id)).toContain(good);
  expect(log.map(({ event }) => event.id)).not.toContain(bad);
  await page.getByRole('button', { name: '1 refused' }).click();
  const entry = page.getByRole('list', { name: 'Refused decisions' }).getByRole('listitem');
  await expect(entry).toContainText('A speaker’s name');
  await expect(entry).toContainText('holds a character that cannot be kept');
  await page.reload();
  await measured(page);
  await page.getByRole('button', { name: '1 refused' }).click();
  await page.getByRole('button', { name: 'Drop' }).click();
  await expect(page.getByText('Nothing is left here')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: '1 refused' })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await saved(page);
});

test('ten tabs of one browser work, hear of each other, and do so again after database and server were away', async ({
  app,
  context,
}) => {
  const tabs: Page[] = [];
  for (let k = 0; k < 10; k++) {
    const tab = await context.newPage();
    tabs.push(tab);
    await app.episode(tab, 'carriage clock');
  }
  const [first, last] = [tabs[0] as Page, tabs[9] as Page];
  const id = new URL(first.url()).pathname.split('/').at(-1) as string;
  const programme = async () => (await figure(first, 'programme').textContent()) as string;
  const target = randomUUID();
  const seen = async (event: object) => {
    const before = await programme();
    await decide(app, id, event);
    await expect(figure(first, 'programme')).not.toHaveText(before);
    await expect(figure(last, 'programme')).toHaveText(await programme());
  };
  await seen({ id: target, type: 'cut', about: { start: 3, end: 3.6 } });
  await app.restartDatabase();
  await seen({ type: 'undo', target });
  await app.kill();
  await app.start();
  await seen({ type: 'redo', target });
  await seen({ type: 'undo', target });
  for (const tab of tabs) await tab.close();
});

test('a decision made while the database is away waits, says so, and is saved when it is back', async ({ app, page }) => {
  await app.episode(page, 'carriage clock');
  await app.stopDatabase();
  await page.keyboard.press('y');
  await expect(page.locator('[data-save^="offline"]')).toBeVisible();
  await app.startDatabase();
  await saved(page);
  await page.keyboard.press('Control+z');
  await saved(page);
});

test('a measure that has gone is made again, and the shelf is there all the time', async ({ app, page }) => {
  const id = await app.episode(page, 'fog and birds');
  const { recordings } = await app.json(`/api/episodes/${id}`);
  const { mediaId } = recordings[0];
  rmSync(join(app.folder, 'data', 'media', mediaId.slice(0, 2), mediaId, 'curves', 'level-0.ztcv'));
  await page.goto(app.address);
  await expect(page.getByRole('link', { name: /fog and birds/ })).toBeVisible();
  await page.getByRole('link', { name: /fog and birds/ }).click();
  await measured(page);
  await page.goto(app.address);
  await expect(page.getByRole('link', { name: /carriage clock/ })).toBeVisible();
  await app.allMeasured();
});

test('an upload that stopped stands on the shelf, and goes on or is discarded', async ({ app, page }) => {
  const path = makeTalk(join(app.folder, 'bench talk.wav'), [2, 1.2, 2]);
  const bytes = readFileSync(path);
  const begin = async () => {
    const tus = { 'tus-resumable': '1.0.0' };
    const name = Buffer.from('bench talk.wav').toString('base64');
    const opened = await fetch(`${app.address}/api/uploads`, {
      method: 'POST',
      headers: { ...tus, 'upload-length': String(bytes.length), 'upload-metadata': `filename ${name}` },
    });
    const place = new URL(opened.headers.get('location') as string, app.address);
    await fetch(place, {
      method: 'PATCH',
      headers: { ...tus, 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' },
      body: bytes.subarray(0, 100_000),
    });
    const file = join(app.folder, 'data', 'uploads', place.pathname.split('/').at(-1) as string);
    const long = new Date(statSync(file).mtimeMs - 60_000);
    utimesSync(file, long, long);
  };
  await begin();
  await begin();
  await page.goto(app.address);
  const stopped = page.getByRole('region', { name: 'Stopped on their way' });
  const ours = stopped.getByRole('listitem').filter({ hasText: 'bench talk.wav' });
  await expect(ours).toHaveCount(2);
  await expect(ours.first()).toContainText('0.1 MB of');
  await ours.first().getByRole('button', { name: 'Discard' }).click();
  await expect(ours).toHaveCount(1);
  await stopped.getByLabel('Go on with bench talk.wav').setInputFiles(makeTalk(join(app.folder, 'other.wav'), [1, 1.2, 1]));
  await expect(ours.getByRole('alert')).toContainText('is another file');
  await stopped.getByLabel('Go on with bench talk.wav').setInputFiles(path);
  await expect(page.getByRole('link', { name: 'bench talk' })).toBeVisible();
  await expect(ours).toHaveCount(0);
});

test('a removed episode is brought back as it was, or removed for good', async ({ app, page }) => {
  await page.goto(app.address);
  const link = page.getByRole('link', { name: 'bench talk' });
  const remove = async () => {
    await page.getByRole('button', { name: 'Remove bench talk' }).click();
    await page.getByRole('dialog').getByRole('button', { name: 'Remove', exact: true }).click();
    await expect(link).toHaveCount(0);
  };
  await remove();
  // Others may have been removed before.
  const open = () => page.getByText(/removed episodes?, which can still/).click();
  const removed = page.getByRole('list', { name: 'Removed episodes' }).getByRole('listitem').filter({ hasText: 'bench talk' });
  await open();
  await expect(removed).toContainText('14 days left');
  await removed.getByRole('button', { name: 'Bring back' }).click();
  await expect(link).toBeVisible();
  await link.click();
  await measured(page);
  // Kept as a file, it comes back even when it was removed for good.
  await page.goto(app.address);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Keep bench talk as a file' }).click();
  const kept = join(app.folder, (await download).suggestedFilename());
  await (await download).saveAs(kept);
  expect(kept).toMatch(/bench talk\.zetemis\.tar$/);
  await remove();
  await open();
  await removed.getByRole('button', { name: 'Remove for good' }).click();
  await removed.getByRole('button', { name: 'Yes, for good' }).click();
  await expect(removed).toHaveCount(0);
  await page.getByLabel('Recording to upload').setInputFiles(kept);
  await link.click();
  await measured(page);
  const id = new URL(page.url()).pathname.split('/').at(-1) as string;
  await app.json(`/api/episodes/${id}`, 'DELETE');
  await app.json(`/api/episodes/${id}?forGood`, 'DELETE');
});

test('a linked file that was exchanged is noticed, and measured anew when that is wanted', async ({ app, page }) => {
  const path = makeTalk(join(app.mediaFolder, 'linked.wav'), [2, 1.2, 2]);
  const { entries } = await app.json('/api/folder');
  const { entry } = entries.find((one: { path: string }) => one.path === 'linked.wav');
  const { id } = await app.json('/api/episodes', 'POST', { from: 'folder', entry });
  await app.allMeasured();
  await decide(app, id, { type: 'cut', about: { start: 0.5, end: 0.9 } });
  copyFileSync(makeTalk(join(app.folder, 'longer.wav'), [2, 1.2, 2, 1.5, 3]), path);
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  const notice = page.getByRole('alert').filter({ hasText: 'linked.wav' });
  await expect(notice).toContainText('was exchanged for another file');
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByRole('tabpanel').getByRole('alert')).toContainText('these cuts are made for the old one');
  await expect(figure(page, 'recorded')).toHaveText('0:05.2');
  await notice.getByRole('button', { name: 'Measure the new file' }).click();
  await expect(figure(page, 'recorded')).toHaveText('0:09.7');
  await expect(notice).toHaveCount(0);
  const { log } = await app.json(`/api/episodes/${id}`);
  // What earlier recordings taught may stand before it.
  const types = log.map(({ event }: { event: { type: string } }) => event.type);
  expect(types.filter((type: string) => type !== 'lessons')).toEqual(['cut']);
  await app.json(`/api/episodes/${id}`, 'DELETE');
  await app.json(`/api/episodes/${id}?forGood`, 'DELETE');
});

test('with a passphrase nobody gets in without it, and the log says who decided', async ({ app, page }) => {
  const path = join(app.folder, 'data', 'access.json');
  await new Access(path).setPassphrase(PASSPHRASE);
  try {
    expect((await fetch(`${app.address}/api/episodes`)).status).toBe(401);
    expect((await fetch(`${app.address}/api/episodes`, { headers: { host: 'localhost' } })).status).toBe(401);
    await page.goto(app.address);
    await expect(page).toHaveURL(/sign-in/);
    await page.getByLabel(/Your name/).fill('Marn');
    await page.getByLabel('Passphrase').fill('not that one at all');
    await page.getByRole('button', { name: 'Sign in' }).click();
    await expect(page.getByRole('alert')).toHaveText('That is not the passphrase.');
    await page.getByLabel(/Your name/).fill('Marn');
    await page.getByLabel('Passphrase').fill(PASSPHRASE);
    await page.getByRole('button', { name: 'Sign in' }).click();
    await page.getByRole('link', { name: /carriage clock/ }).click();
    await measured(page);
    await page.keyboard.press('y');
    await saved(page);
    await page.keyboard.press('Control+z');
    await saved(page);
    const id = new URL(page.url()).pathname.split('/').at(-1) as string;
    expect(await app.decidedBy(id)).toEqual(expect.arrayContaining(['Marn']));
    const token = await new Access(path).makeToken('nightly');
    expect((await fetch(`${app.address}/api/episodes`, { headers: { authorization: `Bearer ${token}` } })).status).toBe(200);
    await page.goto(app.address);
    await page.getByRole('button', { name: 'Sign out everywhere' }).click();
    await expect(page).toHaveURL(/sign-in/);
    await page.goto(app.address);
    await expect(page).toHaveURL(/sign-in/);
  } finally {
    rmSync(path, { force: true });
  }
});
