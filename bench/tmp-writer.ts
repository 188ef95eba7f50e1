import { readFileSync, rmSync } from 'node:fs';
import { build } from 'esbuild';
await build({
  entryPoints: ['web/src/lib/server/ingest/writer.ts'],
  bundle: true,
  platform: 'node',
  format: 'esm',
  outfile: '.tmp/writer.mjs',
  external: ['libsql', '@libsql/client'],
  alias: { $lib: './web/src/lib' },
  banner: {
    js: "import { createRequire } from 'node:module'; const require = createRequire(import.meta.url);"
  }
});
