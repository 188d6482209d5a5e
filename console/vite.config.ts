import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';
import { inlineStyle, precompress } from './precompress.ts';

export default defineConfig({
  plugins: [react(), inlineStyle(), precompress()],
  build: { outDir: 'dist', sourcemap: false, chunkSizeWarningLimit: 900 },
  server: { proxy: { '/api': 'http://127.0.0.1:7401' } },
  // One world for all files: each leaves it as it found it.
  test: {
    environment: 'jsdom',
    isolate: false,
    testTimeout: 30_000,
    setupFiles: ['src/setupTests.ts'],
    include: ['src/**/*.test.{ts,tsx}'],
  },
});
