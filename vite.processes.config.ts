import { defineConfig } from 'vite';

/** The processes beside the web: built like it, so that none needs a loader. */
export default defineConfig({
  build: {
    ssr: true,
    outDir: 'build/processes',
    emptyOutDir: true,
    copyPublicDir: false,
    rollupOptions: {
      input: { worker: 'server/worker.ts', web: 'server/web.ts', press: 'server/letters/press-thread.ts' },
      output: { entryFileNames: '[name].js' },
    },
  },
});
