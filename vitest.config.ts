import { execFileSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

const alias = { '@': fileURLToPath(new URL('./src', import.meta.url)) };

/** The first digits of what is checked out, or of nothing where that is not known: see `tests/properties.ts`. */
function commit(): string {
  try {
    return execFileSync('git', ['rev-parse', '--short=7', 'HEAD'], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
    }).trim();
  } catch {
    return '1';
  }
}

const drawn = { setupFiles: ['tests/properties.ts'], env: { PROPERTY_SEED: process.env.PROPERTY_SEED ?? commit() } };

export default defineConfig({
  resolve: { alias },
  test: {
    // Left to itself it keeps one core free, which of two is half of them.
    maxWorkers: 2,
    projects: [
      {
        resolve: { alias },
        test: { ...drawn, name: 'unit', include: ['src/**/*.test.ts'], environment: 'node', testTimeout: 120_000 },
      },
      {
        resolve: { alias },
        test: {
          ...drawn,
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
