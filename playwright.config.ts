import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './scripts/chromium.ts';

export default defineConfig({
  testDir: 'tests/interface',
  // One application, one database: tests take turns.
  workers: 1,
  fullyParallel: false,
  timeout: 480_000,
  expect: { timeout: 60_000 },
  reporter: [['list']],
  use: { viewport: { width: 1280, height: 800 }, launchOptions: CHROMIUM, acceptDownloads: true },
});
