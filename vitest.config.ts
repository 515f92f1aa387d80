import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'core',
          testTimeout: 60_000,
          include: ['core/**/*.test.ts', 'app/**/*.test.ts', 'standins/**/*.test.ts', 'demo/**/*.test.ts'],
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 60_000,
          fileParallelism: true,
        },
      },
      {
        test: {
          name: 'chromium',
          include: ['e2e/**/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
          fileParallelism: false,
        },
      },
    ],
  },
});
