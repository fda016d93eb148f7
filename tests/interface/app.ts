import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { AxeBuilder } from '@axe-core/playwright';
import { test as base, expect, type Locator, type Page } from '@playwright/test';
import pg from 'pg';
import type { RecordingDetail } from '@/core/contract/messages.ts';
import { loadDemo } from '../../demo/load.ts';
import { build } from '../../scripts/build.ts';
import { migrateDatabase } from '../../scripts/migrate.ts';
import { freePort, startCluster } from '../../scripts/postgres.ts';
import { type Service, serve } from '../../scripts/serve.ts';
import { folderFor } from '../media.ts';

/** The real application on a database and a media store of its own, with the demo on its shelf. */
export class App {
  readonly folder = folderFor('interface');
  readonly mediaFolder = join(this.folder, 'media');
  private port = 0;
  private service: Service | undefined;
  private cluster: Awaited<ReturnType<typeof startCluster>> | undefined;

  get address(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  async open(): Promise<void> {
    mkdirSync(this.mediaFolder);
    build();
    this.cluster = await startCluster(join(this.folder, 'postgres'));
    await migrateDatabase(this.cluster.url);
    this.port = await freePort();
    await this.start();
    await loadDemo(this.address);
    await this.allMeasured();
  }

  async start(): Promise<void> {
    this.service = await serve({
      DATABASE_URL: this.cluster?.url,
      PORT: String(this.port),
      ZETEMIS_DATA_DIR: join(this.folder, 'data'),
      ZETEMIS_MEDIA_DIR: this.mediaFolder,
      ZETEMIS_MODELS_DIR: join(this.folder, 'models'),
      ZETEMIS_STAND_IN_DELAY: '400',
      LOG_LEVEL: 'fatal',
    });
  }

  /** Ends server and worker without a word, as a power cut would. */
  async kill(): Promise<void> {
    const { web, worker } = this.service ?? {};
    web?.kill('SIGKILL');
    worker?.kill('SIGKILL');
    await this.service?.ended;
  }

  /** Uploads a file in one go, and asks for an episode of it. */
  async bring(bytes: Uint8Array<ArrayBuffer>, name: string): Promise<{ status: number; id?: string; error?: string }> {
    const tus = { 'tus-resumable': '1.0.0' };
    const metadata = `filename ${Buffer.from(name).toString('base64')}`;
    const opened = await fetch(`${this.address}/api/uploads`, {
      method: 'POST',
      headers: { ...tus, 'upload-length': String(bytes.length), 'upload-metadata': metadata },
    });
    const place = new URL(opened.headers.get('location') ?? '', this.address);
    await fetch(place, {
      method: 'PATCH',
      headers: { ...tus, 'upload-offset': '0', 'content-type': 'application/offset+octet-stream' },
      body: bytes,
    });
    const answer = await fetch(`${this.address}/api/episodes`, {
      method: 'POST',
      body: JSON.stringify({ from: 'upload', upload: place.pathname.split('/').at(-1) }),
      headers: { 'content-type': 'application/json' },
    });
    return { status: answer.status, ...(await answer.json()) };
  }

  async stopDatabase(): Promise<void> {
    await this.cluster?.stop();
  }

  async startDatabase(): Promise<void> {
    this.cluster = await startCluster(join(this.folder, 'postgres'), () => {}, this.cluster?.port);
  }

  async restartDatabase(): Promise<void> {
    await this.stopDatabase();
    await this.startDatabase();
  }

  /** Names that stand in the log of an episode. */
  async decidedBy(episodeId: string): Promise<string[]> {
    const client = new pg.Client({ connectionString: this.cluster?.url });
    await client.connect();
    const { rows } = await client.query('select distinct by from decisions where episode_id = $1 and by is not null', [
      episodeId,
    ]);
    await client.end();
    return rows.map(({ by }) => by);
  }

  async close(): Promise<void> {
    await this.service?.stop();
    await this.cluster?.stop();
    if (this.cluster) rmSync(this.cluster.base, { recursive: true, force: true });
    rmSync(this.folder, { recursive: true, force: true });
  }

  async json(path: string, method = 'GET', body?: unknown) {
    const ask = () =>
      fetch(`${this.address}${path}`, {
        method,
        ...(body !== undefined && { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
      });
    // A connection that the server closed while a test kept this process busy is noticed when it is used.
    const answer = await (method === 'GET' ? ask().catch(ask) : ask());
    return answer.status === 204 ? undefined : answer.json();
  }

  /** Waits until speech and picture are measured too: what comes later would change proposals in mid-test. */
  async allMeasured(): Promise<void> {
    const { episodes } = await this.json('/api/episodes');
    for (const { id } of episodes)
      for (;;) {
        const { recordings } = (await this.json(`/api/episodes/${id}`)) as { recordings: RecordingDetail[] };
        if (recordings.every((one) => one.speech && one.voice && one.echoes && (one.motion || !one.facts.video))) break;
        await sleep(500);
      }
  }

  /** Waits until the cuts of all episodes, as they now are, are worked out and kept. */
  async allCut(): Promise<void> {
    for (;;) {
      const { episodes } = await this.json('/api/episodes');
      if (episodes.every((episode: { isCurrent: boolean }) => episode.isCurrent)) return;
      await sleep(100);
    }
  }

  /** Opens a demo episode with its decisions as they came, and waits for the score. */
  async episode(page: Page, title: string): Promise<string> {
    const { episodes } = await this.json('/api/episodes');
    const { id } = episodes.find((episode: { title: string }) => episode.title.includes(title));
    await page.goto(`${this.address}/episodes/${id}`);
    await measured(page);
    return id;
  }
}

/** Waits until the score is there with all its brackets. */
export async function measured(page: Page): Promise<void> {
  await expect(page.locator('[data-figure="programme"]')).toHaveText(/\d:\d\d/);
  await expect(page.locator('header [aria-busy="false"]')).toBeVisible();
}

export const figure = (page: Page, name: string) => page.locator(`[data-figure="${name}"]`);

export async function saved(page: Page): Promise<void> {
  await expect(page.locator('[data-save="saved"]')).toBeVisible();
}

/**
 * Rules of accessibility that the page breaks.
 * Colours that still fade are let come to rest first: on their way their contrast is that of neither theme.
 * @param theme the theme to look at it in, or none for the one it is in
 */
export async function broken(page: Page, theme?: string): Promise<string[]> {
  if (theme) await page.evaluate((name) => document.documentElement.setAttribute('data-theme', name), theme);
  await page.evaluate(async () => {
    const fading = () => document.getAnimations().filter((one) => one.effect?.getComputedTiming().endTime !== Infinity);
    await Promise.allSettled(fading().map((one) => one.finished));
  });
  const { violations } = await new AxeBuilder({ page }).analyze();
  return violations.map(({ id, nodes }) => `${theme ?? ''} ${id} ${nodes[0]?.html}`);
}

/** Takes back the last steps, by key. */
export async function undo(page: Page, times = 1): Promise<void> {
  for (let k = 0; k < times; k++) await page.keyboard.press('Control+z');
  await saved(page);
}

/** Sets a slider by its field. */
export async function slide(page: Page, label: string, value: number): Promise<void> {
  const field = page.getByRole('textbox', { name: new RegExp(`^${label}, in`) });
  await field.fill(String(value));
  await field.press('Enter');
}

export const test = base.extend<object, { app: App }>({
  app: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright wants the pattern
    async ({}, use) => {
      const app = new App();
      await app.open();
      await use(app);
      await app.close();
    },
    { scope: 'worker', timeout: 600_000 },
  ],
});
export { expect };

/** Keeps threads that compute from starting. @returns a function that lets them start */
export async function holdThread(page: Page): Promise<() => void> {
  let release = () => {};
  const held = new Promise<void>((resolve) => {
    release = resolve;
  });
  await page.route(/cut\.worker/, async (route) => {
    await held;
    await route.continue();
  });
  return release;
}

/** Drops a file as a person would from a folder of theirs. */
export async function dropOn(place: Locator, { name, bytes }: { readonly name: string; readonly bytes: Buffer }): Promise<void> {
  const dataTransfer = await place.page().evaluateHandle(
    ([called, held]) => {
      const files = new DataTransfer();
      files.items.add(new File([Uint8Array.from(atob(held), (sign) => sign.charCodeAt(0))], called));
      return files;
    },
    [name, bytes.toString('base64')] as const,
  );
  await place.dispatchEvent('drop', { dataTransfer });
}
