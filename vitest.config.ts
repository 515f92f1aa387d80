import vue from '@vitejs/plugin-vue';
import vuetify from 'vite-plugin-vuetify';
import { defineConfig } from 'vitest/config';

const globalSetup = 'scripts/testFolder.mjs';
/** Tests of servers and screens wait for what must come as long as a busy machine may need. */
const patient = {
  setupFiles: ['server/testing/patience.ts'],
  expect: { poll: { timeout: 20_000 } },
};

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'core',
          globalSetup,
          testTimeout: 60_000,
          hookTimeout: 60_000,
          include: [
            'core/**/*.test.ts',
            'app/**/*.test.ts',
            'standins/**/*.test.ts',
            'demo/**/*.test.ts',
            'simulation/**/*.test.ts',
          ],
          exclude: ['app/**/*.dom.test.ts'],
        },
      },
      {
        // Parts of screens, each in a page without a browser.
        plugins: [vue(), vuetify()],
        test: {
          name: 'parts',
          environment: 'happy-dom',
          include: ['app/**/*.dom.test.ts'],
          server: { deps: { inline: ['vuetify', 'vuetify/components'] } },
        },
      },
      {
        test: {
          name: 'server',
          globalSetup,
          ...patient,
          include: ['server/**/*.test.ts'],
          exclude: ['server/measured/**'],
          testTimeout: 120_000,
          hookTimeout: 60_000,
          fileParallelism: true,
        },
      },
      {
        test: {
          name: 'chromium',
          globalSetup,
          ...patient,
          include: ['e2e/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
          // Side by side: each has a browser and a server of its own, and waits more than it computes.
          maxWorkers: 2,
        },
      },
      {
        test: {
          // What measures how long something takes runs alone.
          name: 'measured',
          globalSetup,
          ...patient,
          include: ['e2e/measured/*.test.ts', 'server/measured/*.test.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
          fileParallelism: false,
        },
      },
    ],
  },
});
