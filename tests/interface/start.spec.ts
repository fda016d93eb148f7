import { spawn } from 'node:child_process';
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { freePort } from '../../scripts/postgres.ts';
import { folderFor } from '../media.ts';

const ROOT = join(import.meta.dirname, '..', '..');

const ready = (port: string) =>
  fetch(`http://127.0.0.1:${port}/readyz`).then(
    (answer) => answer.json(),
    () => undefined,
  );

/** Number of the database server of a folder: where root starts it, its files lie elsewhere. */
function serverOn(folder: string): number {
  const note = join(folder, 'postgres', 'database-lies-in');
  const base = existsSync(note) ? readFileSync(note, 'utf8') : join(folder, 'postgres');
  return Number(readFileSync(join(base, 'data', 'postmaster.pid'), 'utf8').split('\n')[0]);
}

test('one command starts it with the demo and keeps it running; Ctrl-C leaves nothing behind', async ({ page }) => {
  test.setTimeout(480_000);
  const folder = folderFor('start');
  const port = String(await freePort());
  const begin = () => {
    const process = spawn(join(ROOT, 'bin', 'start'), ['--demo'], {
      env: { ...globalThis.process.env, ZETEMIS_VAR_DIR: folder, PORT: port },
      stdio: ['ignore', 'pipe', 'inherit'],
      detached: true,
    });
    let text = '';
    process.stdout.on('data', (chunk) => {
      text += String(chunk);
    });
    return { process, said: () => text };
  };
  const first = begin();
  const started = first.process;
  await expect.poll(() => first.said(), { timeout: 200_000 }).toContain(`Zetemis is at http://127.0.0.1:${port}`);

  await page.goto(`http://127.0.0.1:${port}`);
  await expect(page.getByRole('link', { name: 'Quill & Verge: the carriage clock' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'The Lamp Room: fog and birds' })).toBeVisible();
  const database = Number(/PostgreSQL listens on 127\.0\.0\.1:(\d+)/.exec(first.said())?.[1]);
  expect(database).toBeGreaterThan(0);

  // What died comes back by itself, the database on the port it had.
  const { 'web server': web, 'queue worker': worker } = JSON.parse(readFileSync(join(folder, 'running.json'), 'utf8'));
  for (const { pid } of [web, worker]) process.kill(pid, 'SIGKILL');
  await expect.poll(() => ready(port), { timeout: 60_000 }).toMatchObject({ ready: true, worker: true });
  process.kill(serverOn(folder), 'SIGKILL');
  await expect.poll(() => first.said(), { timeout: 30_000 }).toContain('database ended by itself');
  await expect.poll(() => ready(port), { timeout: 60_000 }).toMatchObject({ ready: true, worker: true });
  await page.reload();
  await expect(page.getByRole('link', { name: 'Quill & Verge: the carriage clock' })).toBeVisible();

  // A second start finds the first one; a start after one that was killed ends what that left behind.
  const second = begin();
  await expect.poll(() => second.said(), { timeout: 60_000 }).toContain(`Zetemis runs already, at http://127.0.0.1:${port}`);
  const killed = new Promise((resolve) => started.once('exit', resolve));
  process.kill(started.pid as number, 'SIGKILL');
  await killed;
  const third = begin();
  await expect.poll(() => third.said(), { timeout: 200_000 }).toContain(`Zetemis is at http://127.0.0.1:${port}`);
  expect(third.said()).toContain('ending the web server of a start that was killed');
  await page.reload();
  await expect(page.getByRole('link', { name: 'Quill & Verge: the carriage clock' })).toBeVisible();

  const gone = new Promise((resolve) => third.process.once('exit', resolve));
  process.kill(-(third.process.pid as number), 'SIGINT');
  expect(await gone).toBe(0);
  for (const url of [`http://127.0.0.1:${port}`, `http://127.0.0.1:${database}`]) await expect(fetch(url)).rejects.toThrow();
  rmSync(folder, { recursive: true, force: true });
});
