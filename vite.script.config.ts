import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

/** Builds the script that link domains give to pages: one function, which the server calls with what it knows of the links. */
export default defineConfig({
  build: {
    outDir: 'dist/page-script',
    emptyOutDir: true,
    target: 'es2022',
    minify: true,
    lib: {
      entry: fileURLToPath(new URL('page-script/main.ts', import.meta.url)),
      formats: ['iife'],
      name: 'fernhop',
      fileName: () => 'place.js',
    },
    rolldownOptions: {
      // The core only gives functions; nothing happens by its being loaded.
      treeshake: { moduleSideEffects: false },
    },
  },
});
