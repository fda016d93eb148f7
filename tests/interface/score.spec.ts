import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { NO_STEPS } from '@/core/decisions/replay.ts';
import { CutView, type PackedCut } from '@/core/programme/packing.ts';
import { folderFor } from '../media.ts';
import { expect, figure, holdThread, measured, saved, slide, test } from './app.ts';

const ROOT = join(import.meta.dirname, '..', '..');
const DEMO = join(ROOT, 'demo', 'media');

const seconds = (clock: string) => clock.split(':').reduce((sum, part) => sum * 60 + Number(part), 0);
const shown = async (page: Page, name: string) => (await figure(page, name).textContent()) ?? '';
const clock = async (page: Page) => seconds((await page.locator('[data-clock]').textContent()) ?? '');

test('settings, verdicts and cuts by hand can be made, undone and redone, and survive a reload and a killed server', async ({
  page,
  app,
}) => {
  await app.episode(page, 'carriage clock');
  const start = await shown(page, 'programme');

  await slide(page, 'Shortest pause', 1.2);
  await saved(page);
  const tuned = await shown(page, 'programme');
  expect(seconds(tuned)).toBeGreaterThan(seconds(start));

  await page.keyboard.press('Tab');
  await page.locator('section[aria-label="Score"]').focus();
  await page.keyboard.press('f');
  await page.keyboard.press('f');
  await page.keyboard.press('r');
  await expect(page.getByLabel('Looked at now')).toContainText('stays');
  await saved(page);
  const putBack = await shown(page, 'programme');
  expect(seconds(putBack)).toBeGreaterThan(seconds(tuned));

  const row = page.locator('section[aria-label="Score"] canvas').nth(1);
  const box = await row.boundingBox();
  if (!box) throw new Error('no row');
  await page.mouse.move(box.x + 300, box.y + 70);
  await page.mouse.down();
  await page.mouse.move(box.x + 420, box.y + 70, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByLabel('Looked at now')).toContainText('Selected');
  await page.keyboard.press('t');
  await expect(page.getByLabel('Looked at now')).toContainText('Cut by hand');
  await saved(page);
  const withCut = await shown(page, 'programme');
  expect(seconds(withCut)).toBeLessThan(seconds(putBack));

  await page.reload();
  await measured(page);
  await expect(figure(page, 'programme')).toHaveText(withCut);
  await app.kill();
  await app.start();
  await page.reload();
  await measured(page);
  await expect(figure(page, 'programme')).toHaveText(withCut);

  for (const before of [putBack, tuned, start]) {
    await page.keyboard.press('Control+z');
    await expect(figure(page, 'programme')).toHaveText(before);
  }
  await page.keyboard.press('Control+Shift+z');
  await expect(figure(page, 'programme')).toHaveText(tuned);
  await page.keyboard.press('Control+z');
  await saved(page);
});

test('a click on a bracket puts the pause back, another takes it out', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const before = await shown(page, 'programme');
  const box = await page.locator('section[aria-label="Score"] canvas').first().boundingBox();
  if (!box) throw new Error('no row');
  await page.mouse.click(box.x + 10, box.y + 8);
  await expect(figure(page, 'programme')).not.toHaveText(before);
  await expect(page.getByLabel('Looked at now')).toContainText('stays');
  await page.mouse.click(box.x + 10, box.y + 8);
  await expect(figure(page, 'programme')).toHaveText(before);
  await saved(page);
});

test('figures follow while a slider moves, before anything is decided', async ({ page, app }) => {
  await app.episode(page, 'fog and birds');
  const slider = page.getByRole('slider', { name: 'Shortest pause' });
  const before = await shown(page, 'programme');
  const box = await slider.boundingBox();
  if (!box) throw new Error('no slider');
  await page.mouse.move(box.x + box.width * 0.14, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.6, box.y + box.height / 2, { steps: 8 });
  await expect(figure(page, 'programme')).not.toHaveText(before);
  await expect(page.getByText(/seams$/).first()).toBeVisible();
  await page.mouse.up();
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect(figure(page, 'programme')).toHaveText(before);
  await saved(page);
});

test('as programme, playing skips what is out, faster when asked, and stops where it is told', async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  const { pieces } = JSON.parse(await (await fetch(`${app.address}/api/episodes/${id}/handoff?format=json`)).text());
  await page.keyboard.press('g');
  await expect(page.getByRole('button', { name: 'As programme' })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Space');
  const heard: number[] = [];
  for (let k = 0; k < 60; k++) {
    heard.push(await clock(page));
    await page.waitForTimeout(100);
  }
  const inside = (at: number) =>
    pieces.some(({ start, end }: { start: number; end: number }) => at >= start - 0.11 && at <= end + 0.11);
  expect(heard.filter((at) => at > 0 && !inside(at))).toEqual([]);
  expect(Math.max(...heard)).toBeGreaterThan(7.8);
  const picture = await page
    .locator('video')
    .evaluateAll((videos) =>
      videos
        .filter((video) => (video as HTMLVideoElement).style.visibility === 'visible')
        .map((video) => (video as HTMLVideoElement).currentTime),
    );
  expect(Math.abs((picture[0] ?? 0) - (await clock(page)))).toBeLessThan(0.5);

  await page.getByLabel('Speed').selectOption('2');
  await page.waitForTimeout(700);
  const [from, began] = [await clock(page), Date.now()];
  await page.waitForTimeout(2000);
  const speed = ((await clock(page)) - from) / ((Date.now() - began) / 1000);
  expect(speed).toBeGreaterThan(1.5);
  await page.keyboard.press('k');
  await expect(page.getByRole('button', { name: /^Play/ })).toBeVisible();
  const stopped = await clock(page);
  await page.waitForTimeout(300);
  expect(await clock(page)).toBe(stopped);
});

test('the playhead is kept in sight where it is moved by key, and comes back into it when it plays', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const score = page.getByRole('region', { name: 'Score' });
  const first = page.getByRole('img', { name: /^From 0:00/ });
  await score.focus();
  for (let k = 0; k < 90; k++) await page.keyboard.press('ArrowRight');
  await expect(page.getByRole('img', { name: /^From 1:28/ })).toBeInViewport();
  await expect(first).not.toBeInViewport();
  for (let k = 0; k < 90; k++) await page.keyboard.press('ArrowLeft');
  await expect(first).toBeInViewport();
  // Whoever has scrolled away sees what plays.
  await score.evaluate((element) => element.scrollTo(0, 1500));
  await expect(first).not.toBeInViewport();
  await page.keyboard.press('Space');
  await expect(first).toBeInViewport();
  await page.keyboard.press('k');
});

test('two tabs on one episode see each other’s decisions, and one that is offline catches up', async ({ page, app, context }) => {
  const id = await app.episode(page, 'fog and birds');
  const other = await context.newPage();
  await other.goto(`${app.address}/episodes/${id}`);
  await measured(other);
  const start = await shown(page, 'programme');

  await page.keyboard.press('f');
  await page.keyboard.press('r');
  await expect(figure(page, 'programme')).not.toHaveText(start);
  await expect(figure(other, 'programme')).toHaveText(await shown(page, 'programme'));

  await app.kill();
  await other.keyboard.press('f');
  await other.keyboard.press('f');
  await other.keyboard.press('r');
  await expect(other.locator('[data-save^="offline"]')).toHaveText(/offline, 1 queued/);
  const offline = await shown(other, 'programme');
  await other.close();
  await app.start();
  // Another tab, opened later, takes over what the closed one could not send.
  const third = await context.newPage();
  await third.goto(`${app.address}/episodes/${id}`);
  await measured(third);
  await expect(figure(third, 'programme')).toHaveText(offline);
  await saved(third);
  await expect(figure(page, 'programme')).toHaveText(offline);
  for (let k = 0; k < 2; k++) await page.keyboard.press('Control+z');
  await expect(figure(page, 'programme')).toHaveText(start);
  await saved(page);
});

test('words are brought in from a file, and a wrong one changes nothing', async ({ page, app }) => {
  await app.episode(page, 'fog and birds');
  await page.getByRole('tab', { name: 'Words' }).click();
  await page.getByText(/^The words: \d+/).click();
  const input = page.getByLabel('Transcript file');
  await input.setInputFiles({
    name: 'w.json',
    mimeType: 'application/json',
    buffer: Buffer.from('{"words":[{"text":"x","start":2,"end":1}]}'),
  });
  await expect(page.getByRole('alert')).toContainText('ends before it starts');
  await input.setInputFiles(join(DEMO, 'fog-and-birds.words.json'));
  await expect(page.getByText(/words brought in/)).toBeVisible();
});

test('what is downloaded is byte for byte what the command line writes, in all formats', async ({ page, app }) => {
  test.slow();
  await app.episode(page, 'carriage clock');
  await slide(page, 'Shortest pause', 0.8);
  await slide(page, 'Air before', 0.2);
  await saved(page);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByLabel('What the cut list will hold')).toContainText('10:00:00:00');
  const written = (ending: string) => join(folder, `cut.${ending}`);
  const folder = folderFor('handoff');
  // The kind of receiver is kept with the episode: the usual one comes last.
  const receivers = {
    player: ['vtt', 'chapters.vtt'],
    text: ['csv', 'json', 'txt'],
    'editing program': ['edl', 'otio', 'xml', 'srt', 'ttml'],
  };
  const endings = Object.values(receivers).flat();
  execFileSync(join(ROOT, 'bin/zetemis'), [
    ...['export', join(DEMO, 'carriage-clock.mp4'), '--words', join(DEMO, 'carriage-clock.words.json'), '--speech'],
    ...['--prefix', '.', '--set', 'minPause=0.8', '--set', 'airBefore=0.2', '--title', 'Quill & Verge: the carriage clock'],
    ...endings.flatMap((ending) => ['--to', written(ending)]),
  ]);
  for (const [receiver, own] of Object.entries(receivers)) {
    await page.getByRole('radio', { name: receiver }).check();
    for (const ending of own) {
      const coming = page.waitForEvent('download');
      await page.getByRole('link', { name: `carriage-clock.${ending}`, exact: true }).click();
      const downloaded = await (await coming).path();
      expect(readFileSync(downloaded, 'utf8'), ending).toBe(readFileSync(written(ending), 'utf8'));
    }
  }
  await page.getByRole('tab', { name: 'Pauses' }).click();
  for (let k = 0; k < 2; k++) await page.keyboard.press('Control+z');
  await saved(page);
});

test('the web worker and the server give the same cut list', async ({ page, app }) => {
  const id = await app.episode(page, 'fog and birds');
  const server = JSON.parse(await (await fetch(`${app.address}/api/episodes/${id}/handoff?format=json`)).text());

  const workerUrl = page.workers()[0]?.url() ?? '';
  const detail = await app.json(`/api/episodes/${id}`);
  const packed = await page.evaluate(
    async ({ workerUrl, detail, state }) => {
      const worker = new Worker(workerUrl, { type: 'module' });
      let serial = 0;
      // The worker's own protocol (comlink): a call by name with plain values.
      const call = (name: string, ...values: unknown[]) =>
        new Promise<PackedCut>((resolve) => {
          const id = String(++serial);
          const answered = ({ data }: MessageEvent) => {
            if (data.id !== id) return;
            worker.removeEventListener('message', answered);
            resolve(data.value);
          };
          worker.addEventListener('message', answered);
          worker.postMessage({ id, type: 'APPLY', path: [name], argumentList: values.map((value) => ({ type: 'RAW', value })) });
        });
      const [recording] = detail.recordings;
      const file = (name: string) => `/api/media/${recording.mediaId}/curves/${name}.ztcv`;
      const curves = (name: string) => [0, 1].map((track) => file(`${name}-${track}`));
      await call('load', {
        recordings: [
          {
            id: recording.id,
            place: recording.place,
            duration: recording.duration,
            measures: {
              levels: curves('level'),
              speech: curves('speech'),
              voice: curves('voice'),
              echoes: [file('repeated')],
              hesitation: curves('hesitation'),
            },
            across: [],
          },
        ],
        words: `/api/episodes/${detail.id}/words?version=${detail.wordsVersion}`,
      });
      const { ranges, marks, pieces, ...rest } = await call('compute', state, 'whole');
      return { ...rest, ranges: [...ranges], marks: [...marks], pieces: [...pieces] };
    },
    { workerUrl, detail, state: { ...NO_STEPS, settings: server.settings } },
  );
  const { programme, count, open } = new CutView({
    ...packed,
    ranges: Int32Array.from(packed.ranges),
    marks: Uint16Array.from(packed.marks),
    pieces: Int32Array.from(packed.pieces),
  });
  expect({ count, open }).toEqual({ count: server.proposals.length, open: server.summary.open });
  expect(programme.pieces).toHaveLength(server.pieces.length);
  for (const [k, { start, end, rate }] of programme.pieces.entries()) {
    // The page's times are rounded to a tenth of a millisecond, the file's to a whole one.
    expect(Math.abs(start - server.pieces[k].start)).toBeLessThan(0.00056);
    expect(Math.abs(end - server.pieces[k].end)).toBeLessThan(0.00056);
    expect(rate).toBe(server.pieces[k].rate);
  }
});

test('everything has a key, a name in the palette, and a place in the printed list', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  await page.keyboard.press('Shift+?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('Take out');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('Type what to do').fill('longer rows');
  await page.keyboard.press('Enter');
  await expect(page.getByText('10 s a row')).toBeVisible();
  await page.keyboard.press('=');
  await expect(page.getByText('8 s a row')).toBeVisible();
  await page.keyboard.press('Shift+Digit6');
  await expect(page.getByRole('tab', { name: 'Hand-off' })).toHaveAttribute('aria-selected', 'true');
});

test('an episode that does not exist says so and leads back', async ({ page, app }) => {
  await page.goto(`${app.address}/episodes/00000000-0000-4000-8000-000000000000`);
  await expect(page.getByText('not here any more')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the shelf' }).click();
  await expect(page.getByRole('list', { name: 'Episodes' })).toBeVisible();
});

test('what the shelf worked out is there before anything is worked out anew', async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  await app.allCut();
  const release = await holdThread(page);
  await page.goto(`${app.address}/episodes/${id}`);
  await expect(figure(page, 'programme')).toHaveText(/\d:\d\d/);
  const rows = page.getByRole('img', { name: /^From 0:00.*marked: .*out/ });
  await expect(rows).toBeVisible();
  const slider = page.getByRole('slider', { name: 'Air before' });
  const seen = async () => [
    await page.locator('[data-figure]').allTextContents(),
    await rows.getAttribute('aria-label'),
    // Nothing may move from under a hand.
    (await slider.boundingBox())?.y,
  ];
  const shown = await seen();
  await expect(page.locator('header [aria-busy="true"]')).toBeVisible();
  release();
  await measured(page);
  await expect(page.getByText(/^This voice rests/)).toBeVisible();
  expect(await seen()).toEqual(shown);
});

test('a page that is loaded again shows what it showed, before anything is worked out anew', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const before = await shown(page, 'programme');
  await page.keyboard.press('f');
  await page.keyboard.press('r');
  await expect(figure(page, 'programme')).not.toHaveText(before);
  await saved(page);
  await app.allCut();
  const after = await page.locator('[data-figure]').allTextContents();
  const release = await holdThread(page);
  await page.reload();
  await expect(figure(page, 'programme')).toHaveText(/\d:\d\d/);
  expect((await page.locator('[data-figure]').allTextContents()).slice(0, 4)).toEqual(after.slice(0, 4));
  await expect(page.locator('header [aria-busy="true"]')).toBeVisible();
  release();
  await measured(page);
  await page.keyboard.press('Control+z');
  await expect(figure(page, 'programme')).toHaveText(before);
  await saved(page);
});

test('a tray that cannot be fetched says so, and is fetched again when it can', async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  for (const part of [/HandoffTray/, /TakesTray/]) await page.route(part, (route) => route.abort());
  const missed = page.waitForEvent('requestfailed', (request) => /TakesTray/.test(request.url()));
  await page.goto(`${app.address}/episodes/${id}`);
  await measured(page);
  await missed;
  await page.unroute(/TakesTray/);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByRole('alert')).toHaveText(/could not be fetched.*is kept/);
  await page.getByRole('tab', { name: 'Takes' }).click();
  await expect(page.getByText(/Take 1 of \d+/)).toBeVisible();
  await page.unroute(/HandoffTray/);
  await page.reload();
  await measured(page);
  await page.getByRole('tab', { name: 'Hand-off' }).click();
  await expect(page.getByText('CMX 3600 EDL')).toBeVisible();
});

test('a cut that cannot be worked out is no silent page', async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  // Something is decided and taken back: the server does not know the cut after it.
  const decide = () => {
    const target = randomUUID();
    const events = [
      { id: target, type: 'split', at: 1 },
      { id: randomUUID(), type: 'undo', target },
    ];
    return app.json(`/api/episodes/${id}/decisions`, 'POST', { events });
  };
  for (const missing of [/cut\.worker/, /curves\/level-0/])
    for (const isKnown of [true, false]) {
      await decide();
      if (isKnown) await app.allCut();
      await page.route(missing, (route) => route.abort());
      await page.goto(`${app.address}/episodes/${id}`);
      await expect(page.getByText(/could not be (worked out|fetched)/)).toBeVisible();
      await page.unroute(missing);
    }
});

test('only its own pages may change anything, under its own name', async ({ app }) => {
  const id = '00000000-0000-4000-8000-000000000000';
  const foreign = await fetch(`${app.address}/api/episodes/${id}`, {
    method: 'DELETE',
    headers: { origin: 'http://evil.example' },
  });
  expect(foreign.status).toBe(403);
  const { status } = await new Promise<{ status: number | undefined }>((resolve, reject) => {
    void import('node:http').then(({ get }) =>
      get(`${app.address}/api/episodes`, { headers: { host: 'evil.example' } }, (answer) =>
        resolve({ status: answer.statusCode }),
      ).on('error', reject),
    );
  });
  expect(status).toBe(403);
  for (const path of [
    '/api/media/../../etc/passwd',
    `/api/media/${'a'.repeat(64)}/curves/..%2f..%2foriginal`,
    '/api/jobs/x/cancel',
  ])
    expect((await fetch(`${app.address}${path}`)).status).toBeGreaterThanOrEqual(400);
});

/** Seconds a row, unless somebody chose otherwise. */
const ROW = 8;

test('the edge of a bracket is pulled by mouse and by key, given up with Escape, and undone', async ({ page, app }) => {
  const id = await app.episode(page, 'carriage clock');
  const proposals = async (): Promise<{ start: number; end: number; kind: string; verdict: string }[]> =>
    JSON.parse(await (await fetch(`${app.address}/api/episodes/${id}/handoff?format=json`)).text()).proposals;
  const inOneRow = ({ start, end }: { start: number; end: number }) =>
    end - start > 0.9 && start % ROW > 0.5 && Math.floor(start / ROW) === Math.floor((end + 0.5) / ROW) && end < 60;
  const before = await proposals();
  const at = before.findIndex(({ kind, verdict, ...range }) => kind === 'pause' && verdict === 'out' && inOneRow(range));
  const { start, end } = before[at] as { start: number; end: number };
  const box = await page
    .locator('section[aria-label="Score"] canvas')
    .nth(Math.floor(start / ROW))
    .boundingBox();
  if (!box) throw new Error('no row');
  const x = (moment: number) => box.x + ((moment % ROW) / ROW) * box.width;

  await page.mouse.move(x(end) - 2, box.y + 8);
  await expect(page.locator('section[aria-label="Score"]')).toHaveCSS('cursor', 'ew-resize');
  await page.mouse.down();
  await page.mouse.move(x(end - 0.4), box.y + 20, { steps: 5 });
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await page.waitForTimeout(200);
  expect(await proposals()).toEqual(before);

  await page.mouse.move(x(end) - 2, box.y + 8);
  await page.mouse.down();
  await page.mouse.move(x(end - 0.4), box.y + 20, { steps: 5 });
  await page.mouse.up();
  await expect(page.getByLabel('Looked at now')).toContainText('Decided by you');
  await saved(page);
  const pulled = (await proposals())[at];
  expect(pulled?.start).toBe(start);
  expect(pulled?.end).toBeCloseTo(end - 0.4, 1);

  await page.keyboard.press('Alt+a');
  await saved(page);
  expect((await proposals())[at]?.start).toBeCloseTo(start - 0.05, 3);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await saved(page);
  expect(await proposals()).toEqual(before);
});

test('what is decided about a pause that is no longer proposed is kept and listed', async ({ page, app }) => {
  await app.episode(page, 'carriage clock');
  const list = page.getByText('decided, but not proposed now');
  await page.locator('section[aria-label="Score"]').focus();
  await page.keyboard.press('f');
  await page.keyboard.press('f');
  await page.keyboard.press('r');
  await saved(page);
  await expect(list).toHaveCount(0);
  await slide(page, 'Shortest pause', 5);
  await list.click();
  await expect(page.getByRole('button', { name: /Pause, put back/ })).toHaveCount(1);
  await page.keyboard.press('Control+z');
  await expect(list).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await saved(page);
});
