import path from 'node:path';
import { defineConfig, mergeConfig } from 'vitest/config';
import plain from './vitest.config.ts';

const HERE = import.meta.dirname;

/** The tests of the server against a database server instead of a file (`npm run test:remote`). */
export default mergeConfig(
  plain,
  defineConfig({
    resolve: {
      alias: [
        { find: /^@libsql\/client$/, replacement: path.join(HERE, 'web/src/lib/testing/hrana/over-http.ts') }
      ]
    },
    test: {
      env: { TEST_REMOTE: '1' },
      // Every statement goes over a socket.
      testTimeout: 600_000,
      // What a file is missing, locked or damaged like is a matter of files.
      exclude: ['web/src/lib/server/db/{opening,rescue}.test.ts']
    }
  })
);
