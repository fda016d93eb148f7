import { defineConfig } from '@playwright/test';
import { CHROMIUM } from './scripts/chromium.ts';

export default defineConfig({
  testDir: 'tests/interface',
  // One application, one database: tests take turns. Two of each side by side took 15.8 minutes in place of 17.8 on two cores.
  workers: 1,
  fullyParallel: false,
  timeout: 480_000,
  expect: { timeout: 60_000 },
  reporter: [['list']],
  use: { viewport: { width: 1280, height: 800 }, launchOptions: CHROMIUM, acceptDownloads: true },
});
