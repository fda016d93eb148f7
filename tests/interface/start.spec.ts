import { spawn } from 'node:child_process';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { freePort } from '../../scripts/postgres.ts';
import { folderFor } from '../media.ts';

const ROOT = join(import.meta.dirname, '..', '..');

test('one command starts it with the demo, and Ctrl-C leaves nothing running', async ({ page }) => {
  test.setTimeout(240_000);
  const folder = folderFor('start');
  const port = String(await freePort());
  const started = spawn(join(ROOT, 'bin', 'start'), ['--demo'], {
    env: { ...process.env, ZETEMIS_VAR_DIR: folder, PORT: port },
    stdio: ['ignore', 'pipe', 'inherit'],
    detached: true,
  });
  let said = '';
  started.stdout.on('data', (chunk) => {
    said += String(chunk);
  });
  await expect.poll(() => said, { timeout: 200_000 }).toContain(`Zetemis is at http://127.0.0.1:${port}`);

  await page.goto(`http://127.0.0.1:${port}`);
  await expect(page.getByRole('link', { name: 'Quill & Verge: the carriage clock' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'The Lamp Room: fog and birds' })).toBeVisible();
  const database = Number(/PostgreSQL listens on 127\.0\.0\.1:(\d+)/.exec(said)?.[1]);
  expect(database).toBeGreaterThan(0);

  const gone = new Promise((resolve) => started.once('exit', resolve));
  process.kill(-(started.pid as number), 'SIGINT');
  expect(await gone).toBe(0);
  for (const url of [`http://127.0.0.1:${port}`, `http://127.0.0.1:${database}`]) await expect(fetch(url)).rejects.toThrow();
  rmSync(folder, { recursive: true, force: true });
});
