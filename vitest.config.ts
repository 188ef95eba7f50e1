import path from 'node:path';
import { defineConfig } from 'vitest/config';
import { browserScripts, nodeWorkers } from './web/bundled-text-plugin.ts';

export default defineConfig({
  plugins: [nodeWorkers(), browserScripts()],
  resolve: { alias: { $lib: path.resolve(import.meta.dirname, 'web/src/lib') } },
  test: {
    include: ['{core,collect,cli,load,run,workload,web,recordings}/**/*.test.ts'],
    exclude: ['**/node_modules/**', '**/build/**'],
    // Colours are read from the style sheet.
    css: { include: [/app\.css/] },
    testTimeout: 60_000,
    hookTimeout: 120_000,
    maxWorkers: 2
  }
});
