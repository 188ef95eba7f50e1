import path from 'node:path';
import { defineConfig } from 'vitest/config';

/** Attacks on the built server from outside: `npm test` runs the short ones, `npm run soak` the long ones. */
export default defineConfig({
  resolve: { alias: { $lib: path.resolve(import.meta.dirname, 'web/src/lib') } },
  test: {
    include: [process.env.SOAK ? 'web/attacks/*.soak.ts' : 'web/attacks/*.attack.ts'],
    // Patience, not a promise: a test machine that gives its cores away is three times as slow.
    testTimeout: process.env.SOAK ? 1_800_000 : 240_000,
    hookTimeout: 120_000,
    maxWorkers: 1,
    fileParallelism: false
  }
});
