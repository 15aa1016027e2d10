import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const api = process.env.OSCILLUM_API ?? 'http://127.0.0.1:4310';

export default defineConfig({
  plugins: [react()],
  build: { outDir: 'dist', emptyOutDir: true, chunkSizeWarningLimit: 2500, target: 'es2022' },
  worker: { format: 'es' },
  server: { proxy: { '/api': api } },
});
