import { defineConfig } from 'vite';

/** Bundles the programs that run in Node; packages stay outside and are loaded from node_modules. */
export default defineConfig({
  build: {
    ssr: true,
    outDir: 'dist/server',
    emptyOutDir: true,
    target: 'node20',
    rolldownOptions: {
      input: {
        main: 'server/main.ts',
        pages: 'server/pages/pages.worker.ts',
        pageReader: 'server/pages/read.worker.ts',
        excerpt: 'server/keeping/excerpt.worker.ts',
        script: 'server/script/script.worker.ts',
        columns: 'server/columns/columns.worker.ts',
        answers: 'server/answers/answers.worker.ts',
        key: 'server/key.ts',
        hostilePages: 'server/testing/hostilePages.ts',
        soak: 'server/soak/main.ts',
        demo: 'demo/main.ts',
        reconcile: 'server/commands/reconcile.ts',
        query: 'server/commands/query.ts',
        traffic: 'server/commands/traffic.ts',
        backup: 'server/commands/backup.ts',
        restore: 'server/commands/restore.ts',
        webserver: 'server/commands/webserver.ts',
        verify: 'server/commands/verify.ts',
        place: 'server/commands/place.ts',
        bench: 'bench/hop.ts',
        benchVisits: 'bench/visits.ts',
        benchReconcile: 'bench/reconcile.ts',
        benchPlace: 'bench/place.ts',
        benchBrowser: 'bench/newBrowser.ts',
        benchTarget: 'bench/target.ts',
        benchMemory: 'bench/memory.ts',
      },
      output: { entryFileNames: '[name].js', chunkFileNames: '[name]-[hash].js' },
    },
  },
});
