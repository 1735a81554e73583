import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';

const { version } = JSON.parse(readFileSync(join(import.meta.dirname, '../server/package.json'), 'utf8')) as {
  version: string;
};

export default defineConfig({
  define: { __RAWBITS_VERSION__: JSON.stringify(version) },
  plugins: [react(), tailwindcss()],
  // The content security policy allows nothing inline, so small assets stay files of their own.
  build: { assetsInlineLimit: 0, target: 'es2022', modulePreload: { polyfill: false } },
  server: { proxy: { '/api': 'http://127.0.0.1:4310' } },
});
