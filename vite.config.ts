import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { brotliCompressSync, gzipSync } from 'node:zlib';
import vue from '@vitejs/plugin-vue';
import type { Plugin } from 'vite';
import { defineConfig } from 'vite';
import { VitePWA } from 'vite-plugin-pwa';
import vuetify from 'vite-plugin-vuetify';

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

/** Writes each text file compressed beside itself: the server then compresses nothing while a person waits. */
const compressed = (folder: string): Plugin => ({
  name: 'compressed',
  closeBundle: () => {
    for (const name of readdirSync(folder, { recursive: true, encoding: 'utf8' }))
      if (/\.(?:js|css|svg)$/.test(name)) {
        const bytes = readFileSync(join(folder, name));
        writeFileSync(join(folder, `${name}.br`), brotliCompressSync(bytes));
        writeFileSync(join(folder, `${name}.gz`), gzipSync(bytes, { level: 9 }));
      }
  },
});

const out = here('dist/app');

/** The core only gives functions; nothing happens by its being loaded. */
const treeshake = {
  moduleSideEffects: (id: string) =>
    !/[\\/]core[\\/][a-z-]+[\\/]|node_modules[\\/](?:tldts|parse5|entities)/.test(id),
};

export default defineConfig({
  root: here('app'),
  plugins: [
    // White space between words stays, as the formatter and screen readers take it.
    vue({ template: { compilerOptions: { whitespace: 'preserve' } } }),
    vuetify(),
    // Keeps the application's files in the browser, so that it opens without the server too. A newer version waits until
    // the person, or the next start, lets it in: no open form is lost to it.
    VitePWA({
      registerType: 'prompt',
      injectRegister: false,
      manifest: {
        name: 'Fernhop',
        short_name: 'Fernhop',
        start_url: '/',
        display: 'standalone',
        background_color: '#F4F1E8',
        theme_color: '#2C6A4C',
        icons: [{ src: '/mark.svg', sizes: 'any', type: 'image/svg+xml' }],
      },
      workbox: {
        globPatterns: ['**/*.{js,css,svg,woff2}'],
        // The page carries a nonce that only the server gives it, so it is kept as the server answered it.
        templatedURLs: { '/': ['index.html'] },
        navigateFallback: '/',
        navigateFallbackDenylist: [/^\/api\//, /^\/(?:postback|pixel|beacon)/],
        maximumFileSizeToCacheInBytes: 4_000_000,
      },
    }),
    compressed(out),
  ],
  resolve: {
    // What browsers get of it asks the document, which a worker has not.
    alias: {
      'decode-named-character-reference': here('node_modules/decode-named-character-reference/index.js'),
    },
  },
  worker: { format: 'es', rolldownOptions: { treeshake } },
  build: {
    outDir: out,
    emptyOutDir: true,
    target: 'es2023',
    // The content security policy allows nothing inline and nothing from data: but pictures.
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
    rolldownOptions: {
      preserveEntrySignatures: 'allow-extension',
      treeshake,
      output: {
        codeSplitting: {
          includeDependenciesRecursively: false,
          groups: [
            {
              // What reads pages and knows public suffixes is large, and wanted only once something is pasted.
              name: 'reading',
              test: /node_modules[\\/](?:tldts|tldts-core|parse5|entities)[\\/]|core[\\/]link-parts[\\/](?:recognise|deepLink|pasted|pageInLink|owners)\.ts/,
              priority: 2,
            },
            // One file instead of thirty: a browser fetches six at a time, and each waits for those it imports.
            { name: 'first', tags: ['$initial'], priority: 1 },
          ],
        },
      },
    },
  },
});
