import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import { folderFor, makeTalk } from '../media.ts';
import { type App, expect, figure, saved, test, undo } from './app.ts';

const download = async (page: Page, name: string | RegExp): Promise<Buffer> => {
  const coming = page.waitForEvent('download');
  await page.getByRole('link', { name, exact: true }).first().click();
  return readFileSync((await (await coming).path()) as string);
};

async function openTray(page: Page, app: App): Promise<string> {
  const id = await app.episode(page, 'carriage clock');
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByLabel('What the cut list will hold')).toBeVisible();
  return id;
}

test('what is chosen about a timeline is in its file, and is kept with the episode', async ({ page, app }) => {
  await openTray(page, app);
  await page.getByText('The timeline', { exact: true }).click();
  await page.getByLabel('Folder of the media').fill('/Volumes/Work shop');
  await page.getByLabel('Folder of the media').press('Enter');
  await expect(page.getByText('file:///Volumes/Work%20shop/carriage-clock.mp4')).toBeVisible();
  await page.getByLabel('Programme starts at').fill('02:00:00:00');
  await page.getByLabel('Programme starts at').press('Enter');
  await page.getByRole('radio', { name: 'lies beside, off' }).check();
  await page.getByLabel('why each cut was made').check();
  await expect(page.getByLabel('What the cut list will hold')).toContainText('marks');
  const xml = (await download(page, 'carriage-clock.xml')).toString('utf8');
  expect(xml).toContain('<pathurl>file:///Volumes/Work%20shop/carriage-clock.mp4</pathurl>');
  expect(xml).toContain('<string>02:00:00:00</string>');
  expect(xml.match(/<enabled>FALSE<\/enabled>/g)?.length).toBeGreaterThan(20);
  expect(xml).toMatch(/<marker><name>pause<\/name>/);
  await page.getByLabel('Programme starts at').fill('soon');
  await page.getByLabel('Programme starts at').press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'not a timecode' })).toBeVisible();
  await page.reload();
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  // What cannot be counted is said, and can be changed.
  await expect(page.getByRole('alert').filter({ hasText: 'not a timecode' })).toBeVisible();
  await app.json(`/api/episodes/${await openId(page)}/handoff`, 'PUT', { recordStart: '', removed: 'gone', markers: [] });
  await page.reload();
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByText('file:///Volumes/Work%20shop/carriage-clock.mp4')).toBeVisible();
  await app.json(`/api/episodes/${await openId(page)}/handoff`, 'PUT', { folder: '' });
});

const openId = async (page: Page): Promise<string> => new URL(page.url()).pathname.split('/').at(-1) as string;

test('at seams one picture goes over into the next or comes closer: seen as it plays, chosen for one, handed over', async ({
  page,
  app,
}) => {
  await openTray(page, app);
  await page.getByText('At the seams', { exact: true }).click();
  await page.getByRole('radio', { name: 'dissolve' }).check();
  await saved(page);
  const edl = async () => (await download(page, 'carriage-clock.edl')).toString('utf8');
  expect((await edl()).match(/PICTURE DISSOLVES/g)?.length).toBeGreaterThan(10);
  const pictures = page.locator('video').first().locator('..').locator('video');
  const mixed = () =>
    pictures.evaluateAll((both) =>
      (both as HTMLVideoElement[]).every(({ style, paused }) => style.visibility === 'visible' && !paused),
    );
  await page.getByRole('button', { name: 'As programme' }).click();
  await page.getByRole('region', { name: 'Score' }).focus();
  await page.keyboard.press('Space');
  await expect.poll(mixed, { intervals: [20] }).toBe(true);
  await page.keyboard.press('Space');

  // One seam by itself, by key and by mouse, and back.
  await page.keyboard.press('f');
  await page.keyboard.press('t');
  const card = page.getByRole('region', { name: 'Looked at now' });
  await page.keyboard.press('Shift+Y');
  await page.getByRole('tab', { name: 'Pauses' }).click();
  await expect(card).toContainText('the picture is cut');
  await card.getByRole('button', { name: /^Look of the seam/ }).click();
  await expect(card).toContainText('the picture comes closer or goes back');
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await saved(page);
  expect(await edl()).toContain('* PICTURE LARGER BY 8 % AROUND 50 % ACROSS, 50 % DOWN');
  await page.getByText('At the seams', { exact: true }).click();
  const centre = page.getByRole('button', { name: /What stays in view/ });
  await centre.focus();
  await page.keyboard.press('ArrowRight');
  await expect(centre).toHaveAccessibleName(/52 % across/);
  await expect.poll(edl).toContain('AROUND 52 % ACROSS');
  await page.getByRole('region', { name: 'Score' }).focus();
  await undo(page, 4);
  expect(await edl()).not.toContain('* PICTURE');
  await app.json(`/api/episodes/${await openId(page)}/handoff`, 'PUT', { centre: { x: 0.5, y: 0.5 } });
});

test('captions are shown as it plays, and are shaped as it is chosen', async ({ page, app }) => {
  const id = await openTray(page, app);
  await page.getByText('Captions and words', { exact: true }).click();
  await page.getByLabel('show captions while it plays').check();
  await page.getByRole('radio', { name: 'a few words' }).check();
  await page.getByRole('radio', { name: 'upper', exact: true }).check();
  await page.getByRole('region', { name: 'Score' }).focus();
  await page.keyboard.press('Space');
  await expect(page.locator('[data-caption]')).toHaveText(/^[A-Z',.? ]+$/, { timeout: 20_000 });
  await page.keyboard.press('k');
  await page.getByRole('radio', { name: 'player' }).check();
  const vtt = (await download(page, 'carriage-clock.vtt')).toString('utf8');
  const cues = vtt.split('\n\n').slice(1);
  for (const cue of cues)
    expect(
      cue
        .replace(/<[^>]*>/g, '')
        .split('\n')[1]
        ?.trim()
        .split(/\s+/).length,
    ).toBeLessThanOrEqual(3);
  expect(vtt.replace(/<v [^>]*>/g, '')).not.toMatch(/\n[A-Z]*[a-z]/);
  await app.json(`/api/episodes/${id}/handoff`, 'PUT', { captions: {}, receiver: 'editing' });
});

test('several lists come in one archive with a list of what is in it', async ({ page, app }) => {
  const id = await openTray(page, app);
  await app.json(`/api/episodes/${id}/decisions`, 'POST', {
    events: [{ id: crypto.randomUUID(), type: 'break', part: crypto.randomUUID(), at: 60, title: 'The escapement' }],
  });
  await expect(page.getByLabel('What is handed off')).toContainText('2: The escapement');
  await page.getByText('Several lists at once', { exact: true }).click();
  const files = unzipSync(await download(page, 'All in one archive'));
  expect(Object.keys(files).sort()).toEqual([
    'Quill & Verge the carriage clock 01 Part 1.vtt',
    'Quill & Verge the carriage clock 01 Part 1.xml',
    'Quill & Verge the carriage clock 02 The escapement.vtt',
    'Quill & Verge the carriage clock 02 The escapement.xml',
    'manifest.json',
  ]);
  const { lists } = JSON.parse(new TextDecoder().decode(files['manifest.json']));
  expect(lists.map(({ title, files: own }: { title: string; files: string[] }) => [title, own.length])).toEqual([
    ['Quill & Verge: the carriage clock: Part 1', 2],
    ['Quill & Verge: the carriage clock: The escapement', 2],
  ]);
  await page.getByRole('region', { name: 'Score' }).focus();
  await undo(page);
});

test('a timeline that was edited is compared, captioned, and its changes become decisions', async ({ page, app }) => {
  test.slow();
  await openTray(page, app);
  const timeline = JSON.parse((await download(page, 'carriage-clock.otio')).toString('utf8'));
  for (const { children } of timeline.tracks.children) {
    const clips = children.filter((item: { OTIO_SCHEMA: string }) => item.OTIO_SCHEMA === 'Clip.2');
    clips[2].source_range.duration.value += 3;
    clips[5].source_range.duration.value += 5;
    children.splice(9, 1);
  }
  const path = join(folderFor('edited'), 'carriage clock, edited.otio');
  writeFileSync(path, JSON.stringify(timeline));
  const wrong = join(folderFor('edited'), 'letter.xml');
  writeFileSync(wrong, 'Dear keeper');
  await page.getByLabel('Timeline that was edited').setInputFiles(wrong);
  await expect(page.getByRole('alert').filter({ hasText: 'no timeline that can be read back' })).toBeVisible();
  await page.getByLabel('Timeline that was edited').setInputFiles(path);
  await expect(page.getByText('2 were opened, all after words, by 3 to 5 frames')).toBeVisible();
  const changes = page.getByRole('list', { name: 'What the editor changed' });
  await expect(changes.getByRole('listitem')).toHaveCount(3);
  await expect(changes).toContainText('taken out besides');
  const before = (await download(page, 'WebVTT')).toString('utf8');
  expect(before).toMatch(/^WEBVTT/);
  const length = await figure(page, 'programme').textContent();
  await page.getByRole('button', { name: 'Decide all 3 the same here' }).click();
  await saved(page);
  await expect(figure(page, 'programme')).not.toHaveText(length ?? '');
  // It is here what it is there: brought again, nothing is another.
  await page.getByLabel('Timeline that was edited').setInputFiles(path);
  await expect(page.getByText('Nothing was changed.')).toBeVisible();
  const after = (await download(page, 'WebVTT')).toString('utf8');
  expect(after).toBe(before);
  await page.getByRole('button', { name: 'Forget this timeline' }).click();
  await expect(changes).toHaveCount(0);
  await page.getByRole('region', { name: 'Score' }).focus();
  await undo(page, 3);
  await expect(figure(page, 'programme')).toHaveText(length ?? '');
});

test('a recording whose two channels cancel each other says so where it is handed over', async ({ page, app }) => {
  const crossed = join(folderFor('crossed'), 'crossed.wav');
  makeTalk(crossed, [2, 1, 3, 1.5, 2], '-filter:a', 'pan=stereo|c0=c0|c1=-0.9*c0');
  const { id } = await app.bring(readFileSync(crossed), 'crossed.wav');
  await page.goto(`${app.address}/episodes/${id}`);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByText('The two channels of crossed.wav cancel each other')).toBeVisible();
  // It is heard all the same: the silences go, and the talk stays.
  await expect(figure(page, 'events')).toHaveText('3');
});
