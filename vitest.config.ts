import { defineConfig } from 'vitest/config';

const globalSetup = 'scripts/testFolder.mjs';

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'core',
          globalSetup,
          testTimeout: 60_000,
          include: ['core/**/*.test.ts', 'app/**/*.test.ts', 'standins/**/*.test.ts', 'demo/**/*.test.ts'],
        },
      },
      {
        test: {
          name: 'server',
          globalSetup,
          include: ['server/**/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 60_000,
          fileParallelism: true,
        },
      },
      {
        test: {
          name: 'chromium',
          globalSetup,
          include: ['e2e/**/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
          fileParallelism: false,
        },
      },
    ],
  },
});
