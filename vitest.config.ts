import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

const alias = { '@': fileURLToPath(new URL('./src', import.meta.url)) };

export default defineConfig({
  resolve: { alias },
  test: {
    // Left to itself it keeps one core free, which of two is half of them.
    maxWorkers: 2,
    projects: [
      { resolve: { alias }, test: { name: 'unit', include: ['src/**/*.test.ts'], environment: 'node', testTimeout: 120_000 } },
      {
        resolve: { alias },
        test: {
          name: 'integration',
          include: ['tests/integration/**/*.test.ts'],
          environment: 'node',
          testTimeout: 300_000,
          hookTimeout: 300_000,
        },
      },
      {
        resolve: { alias },
        test: {
          name: 'database',
          include: ['tests/database/**/*.test.ts'],
          environment: 'node',
          globalSetup: ['tests/database/setup.ts'],
          setupFiles: ['tests/database/clean.ts'],
          testTimeout: 180_000,
          hookTimeout: 120_000,
          // One database and one media store: files take turns.
          fileParallelism: false,
          sequence: { groupOrder: 1 },
        },
      },
    ],
  },
});
