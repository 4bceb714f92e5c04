import { reactRouter } from '@react-router/dev/vite';
import tailwindcss from '@tailwindcss/vite';
import { defineConfig } from 'vite';

export default defineConfig({
  plugins: [tailwindcss(), reactRouter()],
  resolve: {
    alias: {
      '~': new URL('./app', import.meta.url).pathname,
      // Its browser build asks the document, which web workers do not have.
      'decode-named-character-reference': new URL('./node_modules/decode-named-character-reference/index.js', import.meta.url).pathname,
    },
  },
  environments: { ssr: { build: { rollupOptions: { input: './server/http/app.ts' } } } },
});
