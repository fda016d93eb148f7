import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { readFileSync, rmSync, statfsSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { folderFor, makeVideo } from '../media.ts';
import { type App, expect, measured, saved, test, undo } from './app.ts';

const folder = folderFor('rendered');

async function openFinish(page: Page, app: App): Promise<string> {
  const id = await app.episode(page, 'carriage clock');
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await page.getByRole('radio', { name: 'audience' }).check();
  await expect(page.getByRole('button', { name: /^Render the/ })).toBeVisible();
  return id;
}

// Who takes it is kept with the episode; the tests of other hand-offs want the usual one.
test.afterEach(async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  await app.json(`/api/episodes/${id}/handoff`, 'PUT', { receiver: 'editing', centre: { x: 0.5, y: 0.5 } });
});

const rows = (page: Page) => page.getByRole('region', { name: 'Rendered files' }).locator('li');

interface Listed {
  readonly renders: readonly { id: string; made: { length: number; bytes: number } | null }[];
}

async function fetched(
  page: Page,
  app: App,
  id: string,
): Promise<{ path: string; length: number; bytes: number; address: string }> {
  const { renders } = await (app.json(`/api/episodes/${id}/renders`) as Promise<Listed>);
  const [first] = renders as [Listed['renders'][number]];
  const address = `/api/renders/${first.id}/file`;
  const answer = await page.request.get(`${app.address}${address}`);
  const path = join(folder, first.id);
  writeFileSync(path, await answer.body());
  return { path, address, length: first.made?.length ?? 0, bytes: first.made?.bytes ?? 0 };
}

const probed = (path: string) =>
  JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-of', 'json', '-show_streams', '-show_format', path], { encoding: 'utf8' }),
  );

test('a video is rendered, plays here, is as long as the programme and as loud as was asked, and grows old', async ({
  page,
  app,
}) => {
  const id = await openFinish(page, app);
  // Half a minute of it is enough to be encoded.
  const range = { id: randomUUID(), type: 'section', section: randomUUID(), about: { start: 20, end: 50 }, values: {} };
  await app.json(`/api/episodes/${id}/decisions`, 'POST', { events: [range] });
  await page.getByLabel('What is handed off').selectOption(range.section);
  await page.getByLabel('Loudness').selectOption('podcast');
  await page.getByRole('combobox', { name: 'Picture' }).selectOption('square');
  const frame = page.getByRole('button', { name: /What stays in view/ });
  await frame.focus();
  await page.keyboard.press('ArrowRight');
  await expect(frame).toHaveAccessibleName(/52 % across/);
  await page.getByRole('radio', { name: 'in the picture' }).check();
  await page.getByRole('button', { name: 'Render the video' }).click();
  await expect(rows(page).first()).toBeInViewport();
  await expect(rows(page).first()).toHaveAttribute('data-render', 'there', { timeout: 240_000 });
  const { path, address, length, bytes } = await fetched(page, app, id);
  const { streams, format } = probed(path);
  expect([streams[0].codec_name, streams[0].width, streams[0].height, streams[1].codec_name]).toEqual([
    'h264',
    1080,
    1080,
    'aac',
  ]);
  expect(Math.abs(Number(format.duration) - length)).toBeLessThan(0.1);
  expect(Number(format.size)).toBe(bytes);
  expect(format.tags.title).toContain('carriage clock');
  await expect(rows(page).first()).toContainText(/-16\.\d LUFS now|-15\.\d LUFS now/);
  const part = await page.request.get(`${app.address}${address}`, { headers: { range: 'bytes=100-199' } });
  expect([part.status(), (await part.body()).length]).toEqual([206, 100]);

  await rows(page).first().getByRole('button', { name: 'Play it' }).click();
  const video = page.getByRole('dialog').locator('video');
  await expect.poll(() => video.evaluate((one: HTMLVideoElement) => one.currentTime)).toBeGreaterThan(0.3);
  expect(Math.abs((await video.evaluate((one: HTMLVideoElement) => one.duration)) - length)).toBeLessThan(0.1);
  await page.keyboard.press('Escape');

  // Another point that stays in view makes it old, and the same point again does not.
  await frame.focus();
  await page.keyboard.press('ArrowRight');
  await expect(rows(page).first()).toContainText('Older than your last change');
  await page.keyboard.press('ArrowLeft');
  await expect(rows(page).first()).not.toContainText('Older than your last change');
  await page.getByRole('region', { name: 'Score' }).focus();
  await page.keyboard.press('f');
  await page.keyboard.press('a');
  await saved(page);
  await expect(rows(page).first()).toContainText('Older than your last change');
  await undo(page);
  await rows(page).first().getByRole('button', { name: 'Render again' }).click();
  await expect(rows(page)).toHaveCount(1);
  await expect(rows(page).first()).toHaveAttribute('data-render', 'under way');
  // What is there stays there until the new one is whole.
  expect((await page.request.get(`${app.address}${address}`)).status()).toBe(200);
  await rows(page).first().getByRole('button', { name: 'Cancel' }).click();
  await expect(rows(page).first()).toContainText('Older than your last change');
  await rows(page)
    .first()
    .getByRole('button', { name: /^Delete/ })
    .click();
  await expect(rows(page)).toHaveCount(0);
  expect((await page.request.get(`${app.address}${address}`)).status()).toBe(404);
  await undo(page);
});

test('a render can be stopped and begun again, two go side by side, and what cannot be rendered is refused', async ({
  page,
  app,
}) => {
  const id = await openFinish(page, app);
  await page.getByRole('combobox', { name: 'Format' }).selectOption('webm');
  await page.getByRole('button', { name: 'Render the video' }).click();
  await page.getByRole('combobox', { name: 'Format' }).selectOption('flac');
  await page.getByRole('button', { name: 'Render the sound' }).click();
  await expect(rows(page)).toHaveCount(2);
  await expect(rows(page).first()).toHaveAttribute('data-render', 'there', { timeout: 120_000 });
  await rows(page).nth(1).getByRole('button', { name: 'Cancel' }).click();
  await expect(rows(page).nth(1)).toContainText('It was stopped');
  const { path, length } = await fetched(page, app, id);
  const { streams, format } = probed(path);
  expect([streams.length, streams[0].codec_name]).toEqual([1, 'flac']);
  expect(Number(format.duration)).toBeCloseTo(length, 3);
  await rows(page).nth(1).getByRole('button', { name: 'Go on' }).click();
  await expect(rows(page).first()).toHaveAttribute('data-render', 'under way');
  for (const left of [1, 0]) {
    const stop = rows(page).first().getByRole('button', { name: 'Cancel' });
    if (await stop.isVisible()) await stop.click();
    await rows(page)
      .first()
      .getByRole('button', { name: /^Delete/ })
      .click();
    await expect(rows(page)).toHaveCount(left);
  }
  const refused = await page.request.post(`${app.address}/api/episodes/${id}/renders`, {
    data: { choices: { format: 'doc' } },
  });
  expect(refused.status()).toBe(400);
  const { bavail, bsize } = statfsSync(app.folder);
  const large = await page.request.post(`${app.address}/api/episodes/${id}/renders`, {
    data: { choices: { format: 'mp4', megabytes: 100_000 } },
  });
  if (bavail * bsize < 220e9) {
    expect(large.status()).toBe(507);
    expect((await large.json()).error).toMatch(/needs up to 220\.\d GB .* \d+\.\d GB are free/);
  } else {
    const { id: render } = await large.json();
    await app.json(`/api/renders/${render}`, 'DELETE');
  }
});

test('a quick copy is offered for a picture that allows it, and plays across where it was cut and joined', async ({
  page,
  app,
}) => {
  const path = makeVideo(join(folder, 'quick bench.mp4'), 14, '-c:v', 'libx264', '-g', '30', '-c:a', 'aac');
  const { id = '' } = await app.bring(new Uint8Array(readFileSync(path)), 'quick bench.mp4');
  await app.allMeasured();
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await page.getByRole('radio', { name: 'audience' }).check();
  await page.getByRole('radio', { name: 'quick copy' }).check();
  await page.getByRole('button', { name: 'Render the video' }).click();
  await expect(rows(page).first()).toHaveAttribute('data-render', 'there', { timeout: 60_000 });
  const { path: made, length } = await fetched(page, app, id);
  expect(probed(made).streams[0].codec_tag_string).toBe('avc3');
  await rows(page).first().getByRole('button', { name: 'Play it' }).click();
  const video = page.getByRole('dialog').locator('video');
  // To its end: a player that loses its way at a join stops, or says so.
  await expect.poll(() => video.evaluate((one: HTMLVideoElement) => one.ended), { timeout: 40_000 }).toBe(true);
  expect(await video.evaluate((one: HTMLVideoElement) => one.error)).toBeNull();
  const { shown, lost } = await video.evaluate((one: HTMLVideoElement) => {
    const { totalVideoFrames, droppedVideoFrames } = one.getVideoPlaybackQuality();
    return { shown: totalVideoFrames, lost: droppedVideoFrames };
  });
  expect(shown).toBeGreaterThan((length * 30_000) / 1001 - 10);
  expect(lost).toBeLessThan(shown / 2);
  await page.keyboard.press('Escape');
  // Made smaller it cannot be copied.
  await page.getByRole('combobox', { name: 'Picture' }).selectOption('720');
  await expect(page.getByRole('radio', { name: 'quick copy' })).toHaveCount(0);
  await app.json(`/api/episodes/${id}`, 'DELETE');
  await app.json(`/api/episodes/${id}?forGood`, 'DELETE');
});

test('the sound is cleaned, heard in the page as loud as before, by key and by mouse, and is in what is rendered', async ({
  page,
  app,
}) => {
  const id = await openFinish(page, app);
  await page.getByText('Cleaning up the sound', { exact: true }).click();
  await page.getByRole('radio', { name: 'much less' }).check();
  await page.getByRole('button', { name: 'Clean it, to hear it' }).click();
  await expect(page.getByLabel('What was found')).toContainText('LUFS cleaned', { timeout: 120_000 });
  await expect(page.getByRole('figure', { name: /^Noise is lowered by \d+ dB/ })).toBeVisible();
  await page.getByLabel('on timelines too').check();
  const timeline = async () => (await page.request.get(`${app.address}/api/episodes/${id}/handoff?format=xml`)).text();
  await expect.poll(timeline).toContain('<pathurl>carriage-clock%20cleaned.wav</pathurl>');
  await page.getByLabel('on timelines too').uncheck();
  const coming = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Save the cleaned sound' }).click();
  const file = await coming;
  expect(file.suggestedFilename()).toBe('carriage-clock cleaned.wav');
  expect(probed(await file.path()).streams).toHaveLength(1);
  const switching = page.getByRole('button', { name: /^Hear it cleaned/ });
  await expect(switching).toHaveAttribute('aria-pressed', 'false');
  const asked: string[] = [];
  page.on('request', (request) => {
    if (request.url().includes('/sound?part')) asked.push(request.url());
  });
  await page.getByRole('region', { name: 'Score' }).focus();
  await page.keyboard.press('Space');
  await expect.poll(() => asked.length).toBeGreaterThan(0);
  expect(asked.some((url) => url.includes('cleaned='))).toBe(false);
  await page.keyboard.press('Shift+C');
  await expect(switching).toHaveAttribute('aria-pressed', 'true');
  await expect.poll(() => asked.some((url) => url.includes('cleaned='))).toBe(true);
  await page.keyboard.press('Space');
  await switching.click();
  await expect(switching).toHaveAttribute('aria-pressed', 'false');
  // Other choices are other sound, which is not there yet.
  await page.getByLabel('less of the clicks').check();
  await expect(page.getByRole('button', { name: 'Clean it, to hear it' })).toBeVisible();
  await page.getByLabel('less of the clicks').uncheck();

  await page.getByRole('combobox', { name: 'Format' }).selectOption('flac');
  await page.getByLabel(/with the sound cleaned/).check();
  await page.getByRole('button', { name: 'Render the sound' }).click();
  await expect(rows(page).first()).toHaveAttribute('data-render', 'there', { timeout: 120_000 });
  const cleaned = await fetched(page, app, id);
  expect(Number(probed(cleaned.path).format.duration)).toBeCloseTo(cleaned.length, 3);
  // Another cleaning makes it old, and the same again does not.
  await page.getByLabel('less of the clicks').check();
  await expect(rows(page).first()).toContainText('Older than your last change');
  await page.getByLabel('less of the clicks').uncheck();
  await expect(rows(page).first()).not.toContainText('Older than your last change');
  await rows(page)
    .first()
    .getByRole('button', { name: /^Delete/ })
    .click();
});

interface Row {
  readonly id: string;
  readonly made: object | null;
  readonly job: { readonly state: string; readonly progress: number; readonly error: string | null } | null;
}

const latest = async (app: App, id: string): Promise<Row> => (await app.json(`/api/episodes/${id}/renders`)).renders[0];

test('a render is stopped near its end, goes on after a kill, and says when its recording is gone', async ({ page, app }) => {
  const id = await openFinish(page, app);
  const ask = (choices: object, episode = id, scope = {}) =>
    app.json(`/api/episodes/${episode}/renders`, 'POST', { choices, scope });
  const share = async () => (await latest(app, id)).job?.progress ?? 0;
  // More than one segment of it: what is finished is finished by segments.
  const range = { id: randomUUID(), type: 'section', section: randomUUID(), about: { start: 20, end: 100 }, values: {} };
  await app.json(`/api/episodes/${id}/decisions`, 'POST', { events: [range] });
  await ask({ format: 'mp4', size: '720', quality: 'small' }, id, { range: range.section });
  await expect.poll(share, { timeout: 240_000, intervals: [100] }).toBeGreaterThan(0.8);
  const { id: render } = await latest(app, id);
  const job = (await app.json(`/api/episodes/${id}/renders`)).renders[0].job.id;
  await app.json(`/api/jobs/${job}/cancel`, 'POST');
  expect((await latest(app, id)).made).toBeNull();
  expect((await page.request.get(`${app.address}/api/renders/${render}/file`)).status()).toBe(404);
  // What was finished of it is kept, through a kill too.
  await app.json(`/api/renders/${render}`, 'POST');
  await expect.poll(async () => (await latest(app, id)).job?.state, { timeout: 60_000 }).toBe('running');
  await app.kill();
  await app.start();
  await expect.poll(async () => (await latest(app, id)).made !== null, { timeout: 240_000 }).toBe(true);
  const whole = await fetched(page, app, id);
  expect(Math.abs(Number(probed(whole.path).format.duration) - whole.length)).toBeLessThan(0.1);
  await app.json(`/api/renders/${render}`, 'DELETE');
  await app.json(`/api/episodes/${id}/decisions`, 'POST', {
    events: [{ id: randomUUID(), type: 'unmark', section: range.section }],
  });

  const path = join(app.mediaFolder, 'lamp.wav');
  const talk = "flite=text='The lamp is lit. The fog comes in from the west.':voice=slt";
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-f', 'lavfi', '-i', talk, '-ar', '48000', path]);
  const { entries } = await app.json('/api/folder');
  const { entry } = entries.find((one: { path: string }) => one.path.includes('lamp.wav'));
  const { id: other } = await app.json('/api/episodes', 'POST', { from: 'folder', entry });
  await app.allMeasured();
  await ask({ format: 'mp3' }, other);
  await expect.poll(async () => (await latest(app, other)).made !== null, { timeout: 60_000 }).toBe(true);
  rmSync(path);
  await app.json(`/api/renders/${(await latest(app, other)).id}`, 'POST');
  await expect.poll(async () => (await latest(app, other)).job?.state, { timeout: 60_000 }).toBe('failed');
  expect((await latest(app, other)).job?.error).toMatch(/no longer in the media folder|missing/);
  // What was rendered before is still there.
  expect((await latest(app, other)).made).not.toBeNull();
  await app.json(`/api/episodes/${other}`, 'DELETE');
  await app.json(`/api/episodes/${other}?forGood`, 'DELETE');
});
