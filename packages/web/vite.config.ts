import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const server = `http://127.0.0.1:${process.env.PONTREL_PORT ?? 5190}`;

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react()],
  worker: { format: 'es' },
  build: { outDir: '../../dist/page', emptyOutDir: true, chunkSizeWarningLimit: 3500, target: 'es2022' },
  server: { host: '127.0.0.1', proxy: { '/api': { target: server, changeOrigin: true } } },
});
