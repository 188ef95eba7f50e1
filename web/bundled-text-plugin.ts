import { build, type BuildOptions } from 'esbuild';
import path from 'node:path';
import type { Plugin } from 'vite';

/** `import code from './x.ts?suffix'` gives the bundled source of that file as a string: alike in development, in the build and in tests. */
const bundledText = (
  name: string,
  suffix: string,
  options: Omit<BuildOptions, 'write' | 'metafile'>
): Plugin => ({
  name,
  enforce: 'pre',
  async resolveId(source, importer) {
    if (!source.endsWith(suffix) || !importer) return null;
    const file = path.resolve(path.dirname(importer.replace(/\?.*$/, '')), source.slice(0, -suffix.length));
    return `${file}${suffix}`;
  },
  async load(id) {
    if (!id.endsWith(suffix)) return null;
    const result = await build({
      ...options,
      entryPoints: [id.slice(0, -suffix.length)],
      bundle: true,
      write: false,
      metafile: true
    });
    for (const input of Object.keys(result.metafile.inputs)) this.addWatchFile(path.resolve(input));
    return `export default ${JSON.stringify(result.outputFiles[0].text)};`;
  }
});

/** `?nodeworker`: for `new Worker(code, { eval: true })` of Node.js. */
export const nodeWorkers = (): Plugin =>
  bundledText('node-workers', '?nodeworker', {
    platform: 'node',
    format: 'cjs',
    target: 'node20',
    external: ['libsql', '@libsql/client', 'bufferutil', 'utf-8-validate'],
    alias: { $lib: path.resolve(import.meta.dirname, 'src/lib') },
    define: { 'import.meta.url': '""' }
  });

/** `?browserscript`: for the pages of others, in a `<script>`. */
export const browserScripts = (): Plugin =>
  bundledText('browser-scripts', '?browserscript', {
    platform: 'browser',
    format: 'iife',
    target: 'es2020',
    minify: true,
    legalComments: 'none'
  });
