import { execFileSync } from 'node:child_process';
import { copyFileSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import type { Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import type { RecordingDetail } from '@/core/contract/messages.ts';
import { folderFor, hearPart, makeRoom, makeTalk, makeVideo, recordLines } from '../media.ts';
import { type App, broken, dropOn, expect, figure, measured, saved, slide, test } from './app.ts';

const MEDIA = join(import.meta.dirname, '../../demo/media');
const TITLE = 'bench and tower';
const cards = 'ul[aria-label="Episodes"] > li';

/** An episode of the bench recording with its words, apart from the demo, and a talk of another rate, size and track count. */
async function benchAndTower(app: App): Promise<string> {
  const { episodes } = await app.json('/api/episodes');
  const known = episodes.find((episode: { title: string }) => episode.title === TITLE);
  if (known) return known.id;
  copyFileSync(join(MEDIA, 'carriage-clock.mp4'), join(app.mediaFolder, 'bench.mp4'));
  const tower = makeVideo(join(folderFor('tower'), 'tower.mp4'), 8, '-c:v', 'libx264', '-c:a', 'aac');
  copyFileSync(tower, join(app.mediaFolder, 'tower.mp4'));
  const { entries } = await app.json('/api/folder');
  const entry = (name: string) => entries.find((one: { path: string }) => one.path === name).entry;
  const { id } = await app.json('/api/episodes', 'POST', { from: 'folder', entry: entry('bench.mp4') });
  await app.json(`/api/episodes/${id}`, 'PATCH', { title: TITLE });
  const text = readFileSync(join(MEDIA, 'carriage-clock.words.json'), 'utf8');
  await app.json(`/api/episodes/${id}/words`, 'PUT', { text });
  await app.json(`/api/episodes/${id}/recordings`, 'POST', { from: 'folder', entry: entry('tower.mp4') });
  await app.allMeasured();
  return id;
}

async function openOrder(page: Page, app: App): Promise<string> {
  const id = await benchAndTower(app);
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await page.getByRole('tab', { name: 'Order' }).click();
  return id;
}

const read = (page: Page, name: string) => page.getByText(name, { exact: true }).click();
const piecesOf = async (app: App, id: string) => (await app.json(`/api/episodes/${id}/handoff?format=json`)).pieces;
const score = (page: Page) => page.getByRole('region', { name: 'Score' });

/** A point of the score: a row as it stands, and pixels from the start of the staff. */
async function pointIn(page: Page, row: number, x: number) {
  const box = await score(page).boundingBox();
  return { x: (box?.x ?? 0) + 56 + x, y: (box?.y ?? 0) + row * 92 + 66 };
}

async function dragFrom(page: Page, from: { x: number; y: number }, to: { x: number; y: number }) {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(to.x, to.y, { steps: 8 });
  await page.mouse.up();
}

test('several recordings at once are one episode, or one each', async ({ page, app }) => {
  const folder = folderFor('several');
  const talks = ['first.wav', 'second.wav'].map((name, k) => makeTalk(join(folder, name), [1 + k, 1.2, 2]));
  await page.goto(app.address);
  const input = page.getByLabel('Recording to upload');
  await input.setInputFiles(talks);
  await page
    .getByRole('dialog', { name: '2 recordings at once' })
    .getByRole('button', { name: 'One episode', exact: true })
    .click();
  const card = page.locator(cards, { hasText: 'first.wav and 1 more' });
  await expect(card).toContainText('seams', { timeout: 60_000 });
  await input.setInputFiles(talks);
  await page.getByRole('button', { name: 'One episode each' }).click();
  await expect(page.locator(cards, { hasText: 'second.wav' })).toBeVisible();
  await expect(page.locator(cards, { hasText: /first\.wav ·/ })).toBeVisible();
  const { episodes } = await app.json('/api/episodes');
  for (const { id, fileName } of episodes)
    if (talks.some((path) => path.endsWith(fileName))) await app.json(`/api/episodes/${id}`, 'DELETE');
});

test('a line begun in one recording and said again in the next is heard, chosen from, and stays where the next is removed', async ({
  page,
  app,
}) => {
  const folder = folderFor('tries');
  const line = 'The mainspring barrel sits behind the lower plate, and it is held';
  const tries = [
    recordLines(join(folder, 'first try.wav'), [{ text: 'Good morning from the workshop.' }, { text: line }]).path,
    recordLines(join(folder, 'next try.wav'), [{ text: `${line} by two brass screws.`, tempo: 0.95 }]).path,
  ];
  await page.goto(app.address);
  await page.getByLabel('Recording to upload').setInputFiles(tries);
  await page.getByRole('button', { name: 'One episode', exact: true }).click();
  const made = () =>
    app
      .json('/api/episodes')
      .then(({ episodes }) => episodes.find((one: { fileName: string }) => one.fileName === 'first try.wav'));
  await expect.poll(async () => (await made())?.recordings, { timeout: 60_000 }).toBe(2);
  const { id } = await made();
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  // Found by a page that is open meanwhile.
  await page.getByRole('tab', { name: 'Takes' }).click();
  const tray = page.getByRole('tabpanel');
  await expect(tray).toContainText('Take 1 of 1', { timeout: 60_000 });
  await expect(tray).toContainText(/Suggested: 2/);
  await expect(tray.getByText(/^2·0:0/).first()).toBeVisible();
  await score(page).focus();
  await page.keyboard.press('f');
  await page.keyboard.press('t');
  await saved(page);
  const shorter = await figure(page, 'programme').textContent();

  await page.getByRole('tab', { name: 'Order' }).click();
  await page.getByRole('button', { name: 'Remove next try.wav' }).click();
  await page.getByRole('tab', { name: 'Takes' }).click();
  await expect(tray).toContainText('No line seems to be said twice');
  await saved(page);
  const pieces = (await piecesOf(app, id)) as { start: number; end: number }[];
  // The greeting is about two seconds, the line begins after that: what is left of the first recording holds it.
  expect(pieces.some(({ start, end }) => start < 5 && end > 5)).toBe(true);
  await page.keyboard.press('Control+z');
  await expect(tray).toContainText('Take 1 of 1');
  await expect(figure(page, 'programme')).toHaveText(shorter ?? '');
  await app.json(`/api/episodes/${id}`, 'DELETE');
});

test('files that ran together are one recording, each handed over by itself, and come apart again', async ({ page, app }) => {
  const folder = folderFor('in-sync');
  const room = makeRoom(join(folder, 'room.wav'), 24);
  const files = [hearPart(room, 0, 20, join(folder, 'lamp.wav')), hearPart(room, 3, 18, join(folder, 'landing.wav'))];
  await page.goto(app.address);
  await page.getByLabel('Recording to upload').setInputFiles(files);
  await page.getByRole('button', { name: /they ran together/ }).click();
  const made = () =>
    app.json('/api/episodes').then(({ episodes }) => episodes.find((one: { fileName: string }) => one.fileName === 'lamp.wav'));
  await expect.poll(async () => (await made())?.tracks, { timeout: 60_000 }).toBe(2);
  await app.allMeasured();
  const { id } = await made();
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await page.getByRole('tab', { name: 'Order' }).click();
  const list = page.getByRole('list', { name: 'Files of lamp.wav that ran together' });
  await expect(list.getByRole('listitem')).toHaveCount(2);
  await expect(list).toContainText('by its sound');
  const place = list.getByLabel('Second at which landing.wav begins');
  await expect(place).toHaveValue('3');
  const { events } = (await app.json(`/api/episodes/${id}/handoff?format=json`)).timeline;
  expect(events.length).toBeGreaterThan(0);
  const xml = await (await page.request.get(`${app.address}/api/episodes/${id}/handoff?format=xml`)).text();
  expect([...xml.matchAll(/<pathurl>([^<]*)/g)].map(([, name]) => name)).toEqual(['lamp.wav', 'landing.wav']);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByText('landing.wav').first()).toBeVisible();

  // Moved by hand, by keyboard, and taken away: what else is there stays.
  await page.getByRole('tab', { name: 'Order' }).click();
  await place.fill('3.2');
  await place.press('Enter');
  await expect(list).toContainText('by hand', { timeout: 30_000 });
  await expect(place).toHaveValue('3.2');
  await list.getByRole('button', { name: 'Take landing.wav away' }).click();
  await expect(list).toHaveCount(0, { timeout: 30_000 });

  // What is no recording says so, where it was asked for.
  await page.getByRole('button', { name: 'Add a file that ran together with lamp.wav' }).click();
  const dialog = page.getByRole('dialog', { name: 'A file that ran together with it' });
  await expect(dialog.getByLabel('By what both hear')).toBeChecked();
  await dialog.getByLabel('By the time of day in both files').check();
  await dialog
    .getByLabel('File that ran together')
    .setInputFiles({ name: 'note.wav', mimeType: 'audio/wav', buffer: Buffer.from('no sound') });
  await expect(page.getByRole('alert').filter({ hasText: 'note.wav' })).toBeVisible();
  await page.getByRole('button', { name: 'Dismiss' }).click();
  await page.getByRole('button', { name: 'Add a file that ran together with lamp.wav' }).click();
  await dialog.getByLabel('By the time of day in both files').check();
  await dialog.getByLabel('File that ran together').setInputFiles(files[1] as string);
  await expect(page.getByRole('alert').filter({ hasText: 'time of day' })).toBeVisible({ timeout: 30_000 });
  await page.getByRole('button', { name: 'Dismiss' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'time of day' })).toHaveCount(0);
  await app.json(`/api/episodes/${id}`, 'DELETE');
});

test('another camera and a screen are seen where they are chosen, by key and by mouse, rendered and handed over', async ({
  page,
  app,
}) => {
  const folder = folderFor('cameras');
  const room = makeRoom(join(folder, 'room.wav'), 20);
  const film = (name: string, colour: string, seconds: number, ...options: string[]) => {
    const path = join(folder, name);
    const picture = ['-f', 'lavfi', '-i', `color=${colour}:s=160x90:r=25:d=${seconds}`];
    execFileSync('ffmpeg', ['-v', 'error', '-y', ...picture, ...options, '-pix_fmt', 'yuv420p', '-t', String(seconds), path]);
    return path;
  };
  const heard = (from: number, seconds: number) => hearPart(room, from, seconds, join(folder, `from-${from}.wav`));
  const front = film('front.mp4', 'red', 14, '-i', heard(0, 14), '-c:v', 'libx264', '-c:a', 'aac');
  const side = film('side.mp4', 'blue', 10, '-i', heard(2, 10), '-c:v', 'libx264', '-c:a', 'aac');
  const screen = film('screen.mp4', 'lime', 14, '-c:v', 'libx264');
  await page.goto(app.address);
  await page.getByLabel('Recording to upload').setInputFiles(front);
  await expect(page.locator(cards).filter({ hasText: 'front' })).toBeVisible();
  await app.allMeasured();
  const { episodes } = await app.json('/api/episodes');
  const { id } = episodes.find(({ fileName }: { fileName: string }) => fileName === 'front.mp4');
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  const bar = page.getByRole('group', { name: /^Picture that is seen/ });
  await expect(bar).toHaveCount(0);
  await page.getByRole('tab', { name: 'Order' }).click();
  const dialog = page.getByRole('dialog', { name: 'A file that ran together with it' });
  for (const file of [side, screen]) {
    await page.getByRole('button', { name: 'Add a file that ran together with front.mp4' }).click();
    await dialog.getByLabel(/another camera, or a screen/).check();
    await dialog.getByLabel('File that ran together').setInputFiles(file);
    await expect(bar.getByRole('button', { name: basename(file) })).toBeVisible();
  }
  const list = page.getByRole('list', { name: 'Files of front.mp4 that ran together' });
  await expect(list.getByLabel('Second at which side.mp4 begins')).toHaveValue('2');
  await expect(list).toContainText('its sound is not used');
  await expect(list).toContainText('it has no sound');
  await app.allMeasured();
  await measured(page);

  // Nothing is cut: what is seen stands where it was chosen.
  await page.getByRole('tab', { name: 'Pauses' }).click();
  await slide(page, 'Shortest pause', 5);
  await expect(figure(page, 'seams')).toHaveText('0');

  // From four seconds on the side, from six on the screen, from eight on the front again.
  await page.locator('section[aria-label="Score"]').focus();
  for (let k = 0; k < 4; k++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Shift+N');
  await expect(bar.getByRole('button', { name: 'side.mp4' })).toHaveAttribute('aria-pressed', 'true');
  const { recordings } = (await app.json(`/api/episodes/${id}`)) as { recordings: RecordingDetail[] };
  const addressOf = (name: string) =>
    `/api/media/${recordings[0]?.angles.find((one) => one.name === name)?.mediaId ?? recordings[0]?.mediaId}/picture`;
  const visible = page.locator('video:visible');
  await expect(visible).toHaveAttribute('src', addressOf('side.mp4'));
  await expect.poll(() => visible.evaluate((video: HTMLVideoElement) => video.currentTime)).toBeCloseTo(2, 1);
  for (let k = 0; k < 2; k++) await page.keyboard.press('ArrowRight');
  await bar.getByRole('button', { name: 'screen.mp4' }).click();
  await page.locator('section[aria-label="Score"]').focus();
  for (let k = 0; k < 2; k++) await page.keyboard.press('ArrowRight');
  await bar.getByRole('button', { name: 'front.mp4' }).click();
  await saved(page);
  await expect(page.getByRole('img', { name: /picture: side\.mp4; picture: screen\.mp4/ })).toBeVisible();
  for (const theme of ['paper', 'booth']) expect(await broken(page, theme)).toEqual([]);

  // Played, each comes at its moment.
  await page.locator('section[aria-label="Score"]').focus();
  for (let k = 0; k < 5; k++) await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Space');
  for (const name of ['side.mp4', 'screen.mp4', 'front.mp4']) await expect(visible).toHaveAttribute('src', addressOf(name));
  await page.keyboard.press('k');

  // Where the side camera was off again, the front is seen, and that is said.
  await page.locator('section[aria-label="Score"]').focus();
  for (let k = 0; k < 14; k++) await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowLeft');
  await bar.getByRole('button', { name: 'side.mp4' }).click();
  await expect(bar).toContainText('It does not reach this moment');
  await expect(visible).toHaveAttribute('src', addressOf('front.mp4'));
  await page.keyboard.press('Control+z');
  await expect(bar).not.toContainText('It does not reach this moment');

  // Taken back, and brought back.
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('img', { name: /picture: screen\.mp4; picture: front/ })).toHaveCount(0);
  await page.keyboard.press('Control+Shift+z');
  await saved(page);

  const edl = await (await page.request.get(`${app.address}/api/episodes/${id}/handoff?format=edl`)).text();
  const seen = [...edl.matchAll(/^\d{3} {2}(\S+) +(V|B) .* (\S+) \S+$/gm)].map(([, reel, , at]) => [reel, at]);
  expect(seen.filter(([reel], k) => reel !== seen[k - 1]?.[0])).toEqual([
    ['FRONT', '01:00:00:00'],
    ['SIDE', '01:00:04:00'],
    ['SCREEN', '01:00:06:00'],
    ['FRONT', '01:00:08:00'],
  ]);
  const choices = { format: 'mp4', centre: { x: 0.5, y: 0.5 }, loudness: null };
  const asked = await app.json(`/api/episodes/${id}/renders`, 'POST', { choices });
  const made = async () => (await app.json(`/api/episodes/${id}/renders`)).renders[0].made;
  await expect.poll(made, { timeout: 120_000 }).not.toBeNull();
  const rendered = join(folder, 'rendered.mp4');
  writeFileSync(rendered, await (await page.request.get(`${app.address}/api/renders/${asked.id}/file`)).body());
  const colourAt = (seconds: number) => {
    const one = [
      '-ss',
      String(seconds),
      '-i',
      rendered,
      '-frames:v',
      '1',
      '-vf',
      'scale=1:1',
      '-pix_fmt',
      'rgb24',
      '-f',
      'rawvideo',
      '-',
    ];
    const [red = 0, green = 0, blue = 0] = execFileSync('ffmpeg', ['-v', 'error', ...one]);
    return red > 150 ? 'front' : green > 150 ? 'screen' : blue > 150 ? 'side' : 'nothing';
  };
  expect([1, 3.9, 4.1, 5.9, 6.1, 7.9, 8.1, 11].map(colourAt)).toEqual([
    'front',
    'front',
    'side',
    'side',
    'screen',
    'screen',
    'front',
    'front',
  ]);

  // Taken away, its place is shown by the recording's own picture.
  await page.getByRole('tab', { name: 'Order' }).click();
  await list.getByRole('button', { name: 'Take side.mp4 away' }).click();
  await expect(bar.getByRole('button', { name: 'side.mp4' })).toHaveCount(0);
  await measured(page);
  await expect(page.getByRole('img', { name: /picture: side/ })).toHaveCount(0);

  // A microphone that is heard in place of the camera's did not run all the time, and that is said.
  await page.getByRole('button', { name: 'Add a file that ran together with front.mp4' }).click();
  await dialog.getByLabel(/Is heard instead/).check();
  await dialog.getByLabel('File that ran together').setInputFiles(heard(3, 8));
  await expect(list).toContainText('before 0:03.0 and after 0:11.0 it did not run, and nothing is heard', { timeout: 60_000 });
  await app.json(`/api/episodes/${id}`, 'DELETE');
});

test('a recording joins an open episode, is removed and put back', async ({ page, app }) => {
  const id = await openOrder(page, app);
  const list = page.getByRole('list', { name: 'Recordings in their order' });
  await expect(list.getByRole('listitem')).toHaveCount(2);
  await expect(figure(page, 'recorded')).toHaveText(/^3:27/);
  const late = makeTalk(join(folderFor('late'), 'late.wav'), [1, 1.2, 2]);
  // Dropped anywhere on the page.
  await dropOn(score(page), { name: 'late.wav', bytes: readFileSync(late) });
  await expect(list.getByRole('listitem')).toHaveCount(3, { timeout: 60_000 });
  await expect(figure(page, 'recorded')).toHaveText(/^3:31/);
  // A wrong file says why, and changes nothing.
  await page
    .getByLabel('Recordings to add')
    .setInputFiles({ name: 'note.wav', mimeType: 'audio/wav', buffer: Buffer.from('no sound') });
  await expect(page.getByRole('alert').filter({ hasText: 'note.wav' })).toContainText('Nothing was changed');
  await page.getByRole('button', { name: 'Dismiss' }).click();

  await page.getByRole('button', { name: 'Remove late.wav' }).click();
  await expect(list.getByRole('listitem')).toHaveCount(2);
  await expect(figure(page, 'recorded')).toHaveText(/^3:27/);
  await page.getByRole('button', { name: 'Put late.wav back' }).click();
  await expect(figure(page, 'recorded')).toHaveText(/^3:31/);
  await page.keyboard.press('Control+z');
  await expect(figure(page, 'recorded')).toHaveText(/^3:27/);
  await saved(page);
  // The score runs through all that are there, and says where another begins.
  await list.getByRole('button', { name: 'tower.mp4', exact: true }).click();
  await expect(page.getByRole('img', { name: /tower\.mp4 begins/ })).toBeVisible();
  await expect(page.locator('[data-clock]')).toHaveText('2·0:00.0');
  const edl: string = await (await fetch(`${app.address}/api/episodes/${id}/handoff?format=edl`)).text();
  expect([...new Set([...edl.matchAll(/^\d{3} {2}(\S+)/gm)].map(([, reel]) => reel))]).toEqual(['BENCH', 'TOWER']);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByText('conformed: 29.97 frames a second of its own')).toBeVisible();
});

test('playback goes on across the join, picture and all', async ({ page, app }) => {
  await openOrder(page, app);
  await page
    .getByRole('list', { name: 'Recordings in their order' })
    .getByRole('button', { name: 'tower.mp4', exact: true })
    .click();
  await expect(page.locator('[data-clock]')).toHaveText('2·0:00.0');
  for (let k = 0; k < 2; k++) await page.keyboard.press('ArrowLeft');
  await expect(page.locator('[data-clock]')).toHaveText(/^1·3:1/);
  await page.keyboard.press('l');
  await expect(page.locator('[data-clock]')).toHaveText(/^2·0:0[1-4]/);
  await page.keyboard.press('k');
  const { recordings } = (await app.json(`/api/episodes/${await benchAndTower(app)}`)) as { recordings: RecordingDetail[] };
  const visible = page.locator('video:visible');
  await expect(visible).toHaveAttribute('src', `/api/media/${recordings[1]?.mediaId}/picture`);
});

test('recordings change places by their names, with the mouse and with the keyboard', async ({ page, app }) => {
  const id = await openOrder(page, app);
  const list = page.getByRole('list', { name: 'Recordings in their order' });
  const names = () => list.getByRole('button', { name: /^(bench|tower)\.mp4$/ }).allTextContents();
  await list
    .getByRole('listitem')
    .nth(1)
    .dragTo(list.getByRole('listitem').nth(0), { targetPosition: { x: 40, y: 3 } });
  await expect.poll(names).toEqual(['tower.mp4', 'bench.mp4']);
  await saved(page);
  expect((await piecesOf(app, id))[0].recording).toBe(1);
  await page.getByRole('button', { name: 'Move bench.mp4 up' }).press('Enter');
  await expect.poll(names).toEqual(['bench.mp4', 'tower.mp4']);
  for (let k = 0; k < 2; k++) await page.keyboard.press('Control+z');
  await saved(page);
});

test('a passage is dragged to another place in the programme, shown in both readings, and sent back', async ({ page, app }) => {
  const id = await openOrder(page, app);
  const before = await piecesOf(app, id);
  await read(page, 'As programme');
  await dragFrom(page, await pointIn(page, 1, 200), await pointIn(page, 1, 400));
  const text = await page.getByRole('region', { name: 'Selected words' }).locator('p').textContent();
  await dragFrom(page, await pointIn(page, 1, 300), await pointIn(page, 4, 420));
  const moved = page.getByRole('region', { name: 'Moved passages' });
  await expect(moved).toContainText((text ?? '').split(' ').slice(0, 3).join(' '));
  await expect(page.getByRole('img', { name: /moved from 1·0:/ }).first()).toBeVisible();
  await saved(page);
  const after = await piecesOf(app, id);
  const length = (pieces: { start: number; end: number }[]) => pieces.reduce((sum, { start, end }) => sum + end - start, 0);
  expect(length(after)).toBeCloseTo(length(before), 1);
  expect(after.some((piece: { start: number }, k: number) => k > 0 && piece.start < after[k - 1].start)).toBe(true);
  await read(page, 'As recorded');
  await moved
    .getByRole('button', { name: (text ?? '').split(' ').slice(0, 3).join(' ') })
    .first()
    .click();
  await expect(page.getByRole('img', { name: /moved from 1·0:/ }).first()).toBeVisible();
  await page.keyboard.press('Shift+B');
  await expect(moved.getByRole('listitem')).toHaveCount(0);
  await saved(page);
  expect(await piecesOf(app, id)).toEqual(before);
});

test('words are cut and pasted by key, and dragged in words alone', async ({ page, app }) => {
  const id = await openOrder(page, app);
  const before = await piecesOf(app, id);
  await read(page, 'Words alone');
  const words = page.getByRole('region', { name: 'Words alone' });
  const word = (text: string) => words.getByText(text, { exact: true }).first();
  await word('Welcome').click();
  await page.keyboard.press('u');
  await page.keyboard.press('Control+x');
  await expect(page.getByText(/cut from 1·0:0\d: go where it belongs/)).toBeVisible();
  await word('Never').click();
  await page.keyboard.press('Control+v');
  await expect(words.getByText('moved', { exact: true })).toBeVisible();
  const order = async () => (await words.textContent()) ?? '';
  await expect.poll(async () => (await order()).indexOf('Welcome') < (await order()).indexOf('Never')).toBe(true);
  await expect.poll(async () => (await order()).indexOf('Welcome') > (await order()).indexOf('mainspring')).toBe(true);
  await page.keyboard.press('Control+z');
  await expect(words.getByText('moved', { exact: true })).toHaveCount(0);

  await word('Welcome').click();
  await page.keyboard.press('u');
  const center = async (text: string) => {
    const box = await word(text).boundingBox();
    return { x: (box?.x ?? 0) + (box?.width ?? 0) / 2, y: (box?.y ?? 0) + (box?.height ?? 0) / 2 };
  };
  await dragFrom(page, await center('back'), await center('Never'));
  await expect(words.getByText('moved', { exact: true })).toBeVisible();
  await page
    .getByRole('region', { name: 'Moved passages' })
    .getByRole('button', { name: /^Send back:/ })
    .click();
  await expect(words.getByText('moved', { exact: true })).toHaveCount(0);
  await saved(page);
  expect(await piecesOf(app, id)).toEqual(before);
});

test('only what is wanted makes the programme, in either order, and both sets of decisions are kept', async ({ page, app }) => {
  const id = await openOrder(page, app);
  const before = await piecesOf(app, id);
  const whole = await figure(page, 'programme').textContent();
  for (const row of [3, 1]) {
    await dragFrom(page, await pointIn(page, row, 100), await pointIn(page, row, 400));
    await page.keyboard.press('Shift+W');
  }
  await expect(figure(page, 'wanted')).toContainText('2 passages are wanted');
  // Marking alone changes nothing.
  await expect(figure(page, 'programme')).toHaveText(whole ?? '');
  await page.keyboard.press('Shift+Q');
  await expect(figure(page, 'programme')).toHaveText(/^0:0\d\.\d$/);
  await saved(page);
  const marked = await piecesOf(app, id);
  expect(marked.at(-1).start).toBeLessThan(marked[0].start);
  await page.getByText('in order', { exact: true }).click();
  await saved(page);
  const ordered = await piecesOf(app, id);
  expect(ordered.map((piece: { start: number }) => piece.start)).toEqual(
    marked.map((piece: { start: number }) => piece.start).sort((a: number, b: number) => a - b),
  );
  await page.keyboard.press('Shift+Q');
  await expect(figure(page, 'programme')).toHaveText(whole ?? '');
  await expect(figure(page, 'wanted')).toContainText('2 passages are wanted');
  await page
    .getByRole('button', { name: /^No longer wanted:/ })
    .first()
    .click();
  await page
    .getByRole('button', { name: /^No longer wanted:/ })
    .first()
    .click();
  await expect(figure(page, 'wanted')).toHaveText('Nothing is marked as wanted.');
  await saved(page);
  expect(await piecesOf(app, id)).toEqual(before);
});

test('parts are begun, named, played, handed off and joined again', async ({ page, app }) => {
  const id = await openOrder(page, app);
  const parts = page.getByRole('region', { name: 'Parts' });
  await page
    .getByRole('list', { name: 'Recordings in their order' })
    .getByRole('button', { name: 'tower.mp4', exact: true })
    .click();
  await expect(page.locator('[data-clock]')).toHaveText('2·0:00.0');
  await page.keyboard.press('Shift+E');
  await expect(parts.getByRole('listitem')).toHaveCount(2);
  // Its title is asked for at once.
  await expect(parts.getByLabel('Title of part 2')).toBeFocused();
  await page.keyboard.type('The tower');
  await page.keyboard.press('Enter');
  await parts.getByLabel('Title of part 1').fill('The bench');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('img', { name: /part: The tower/ })).toBeVisible();
  await parts.getByRole('button', { name: 'Play The tower' }).click();
  await expect(page.locator('[data-clock]')).toHaveText(/^2·0:0[1-4]/);
  await page.keyboard.press('k');
  await saved(page);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  const all = Number(await figure(page, 'events').textContent());
  await page.getByLabel('What is handed off').selectOption({ label: '2: The tower' });
  await expect(page.getByRole('link', { name: /bench-part2\.edl/ })).toBeVisible();
  await expect.poll(async () => Number(await figure(page, 'events').textContent())).toBeLessThan(all);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: /\.edl/ }).click();
  const text = readFileSync((await (await download).path()) as string, 'utf8');
  expect(text).toContain(`TITLE: ${TITLE}: The tower`);
  expect(text).not.toMatch(/^\d{3} {2}BENCH/m);
  expect((await download).suggestedFilename()).toBe('bench-part2.edl');
  await page.getByRole('tab', { name: 'Order' }).click();
  await parts.getByRole('button', { name: 'Join The tower to the part before' }).click();
  await parts.getByRole('button', { name: 'Join The bench to the part before' }).click();
  await expect(parts.getByRole('listitem')).toHaveCount(0);
  await saved(page);
  expect((await app.json(`/api/episodes/${id}/handoff`)).events).toBe(all);
});

test('several episodes are given settings, recognised and handed off together', async ({ page, app }) => {
  const folder = folderFor('batch');
  const talks = ['north.wav', 'south.wav'].map((name, k) => makeTalk(join(folder, name), [2 + k, 1.5, 2]));
  await app.json('/api/sets', 'POST', { name: 'No pauses', settings: { minPause: 5 }, forNew: false });
  await page.goto(app.address);
  await page.getByLabel('Recording to upload').setInputFiles(talks);
  await page.getByRole('button', { name: 'One episode each' }).click();
  for (const name of ['north', 'south'])
    await expect(page.locator(cards, { hasText: `${name}.wav` })).toContainText('seams', { timeout: 60_000 });
  for (const name of ['north', 'south']) await page.getByRole('checkbox', { name: `Choose ${name}` }).check();
  const bar = page.getByRole('region', { name: 'With all chosen episodes' });
  await expect(bar).toContainText('2 episodes chosen');
  await bar.getByLabel('Set of settings').selectOption({ label: 'No pauses' });
  await bar.getByRole('button', { name: 'Give to all' }).click();
  await expect(bar).toContainText('2 of 2 done');
  await bar.getByRole('button', { name: 'Done' }).click();
  for (const name of ['north', 'south'])
    await expect(page.locator(cards, { hasText: `${name}.wav` })).toContainText(/programme\s*0\s*seams/, { timeout: 30_000 });

  // Who knows several languages is told which.
  await bar.getByLabel('Recogniser').selectOption('remote');
  await bar.getByLabel('Language').selectOption('de');
  await bar.getByLabel('Recogniser').selectOption('stand-in');
  await expect(bar.getByLabel('Language')).toHaveCount(0);
  await bar.getByRole('button', { name: 'Recognise all' }).click();
  await expect(bar).toContainText('done', { timeout: 60_000 });
  await bar.getByRole('button', { name: 'Done' }).click();

  await bar.getByLabel('Format').selectOption('edl');
  const download = page.waitForEvent('download');
  await bar.getByRole('button', { name: 'Hand off all' }).click();
  const files = unzipSync(new Uint8Array(readFileSync((await (await download).path()) as string)));
  expect(Object.keys(files).sort()).toEqual(['north/north.edl', 'south/south.edl']);
  expect(Buffer.from(files['north/north.edl'] as Uint8Array).toString('utf8')).toContain('TITLE: north');
  await expect(bar).toContainText('2 of 2 done');
  const { episodes } = await app.json('/api/episodes');
  for (const { id, title } of episodes) if (['north', 'south'].includes(title)) await app.json(`/api/episodes/${id}`, 'DELETE');
  const { sets } = await app.json('/api/sets');
  for (const { id, name } of sets) if (name === 'No pauses') await app.json(`/api/sets/${id}`, 'DELETE');
});

test('the episode of two recordings is removed with all of it', async ({ page, app }) => {
  const id = await benchAndTower(app);
  await app.json(`/api/episodes/${id}`, 'DELETE');
  await page.goto(app.address);
  await expect(page.locator(cards, { hasText: TITLE })).toHaveCount(0);
});
