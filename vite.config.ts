import { fileURLToPath } from 'node:url';
import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vite';
import vuetify from 'vite-plugin-vuetify';

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

export default defineConfig({
  root: here('app'),
  plugins: [
    // White space between words stays, as the formatter and screen readers take it.
    vue({ template: { compilerOptions: { whitespace: 'preserve' } } }),
    vuetify(),
  ],
  worker: { format: 'es' },
  build: {
    outDir: here('dist/app'),
    emptyOutDir: true,
    target: 'es2023',
    // The content security policy allows nothing inline and nothing from data: but pictures.
    assetsInlineLimit: 0,
    modulePreload: { polyfill: false },
  },
});
