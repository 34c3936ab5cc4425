import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [react()],
  build: { outDir: '../src/imbrix/api/web', emptyOutDir: true, chunkSizeWarningLimit: 1200 },
  server: { proxy: { '/api': { target: 'http://127.0.0.1:8642', ws: true } } },
  test: { setupFiles: ['src/tests/setup.ts'] },
});
