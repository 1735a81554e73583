import { defineConfig } from 'drizzle-kit';

export default defineConfig({
  dialect: 'mysql',
  schema: ['./server/src/{platform,features}/*/tables.ts', './server/src/devices/tables.ts'],
  out: './server/migrations',
});
