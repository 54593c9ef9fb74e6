import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const server = `http://127.0.0.1:${process.env.PONTREL_PORT ?? 5190}`;

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react()],
  // the page writes and reads no archive: what stands for it in the formats comes without workers of its own
  resolve: { alias: { '@zip.js/zip.js': '@zip.js/zip.js/lib/zip-no-worker.js' } },
  worker: { format: 'es' },
  build: { outDir: '../../dist/page', emptyOutDir: true, chunkSizeWarningLimit: 3500, target: 'es2022' },
  server: { host: '127.0.0.1', proxy: { '/api': { target: server } } },
});
