import { build } from 'esbuild';
import path from 'node:path';
import type { Plugin } from 'vite';

const SUFFIX = '?nodeworker';

/**
 * `import code from './x.worker.ts?nodeworker'` gives the worker's bundled source as a string for
 * `new Worker(code, { eval: true })`: alike in development, in the build and in tests.
 */
export function nodeWorkers(): Plugin {
  return {
    name: 'node-workers',
    enforce: 'pre',
    async resolveId(source, importer) {
      if (!source.endsWith(SUFFIX) || !importer) return null;
      const file = path.resolve(path.dirname(importer.replace(/\?.*$/, '')), source.slice(0, -SUFFIX.length));
      return `${file}${SUFFIX}`;
    },
    async load(id) {
      if (!id.endsWith(SUFFIX)) return null;
      const result = await build({
        entryPoints: [id.slice(0, -SUFFIX.length)],
        bundle: true,
        write: false,
        metafile: true,
        platform: 'node',
        format: 'cjs',
        target: 'node20',
        external: ['libsql', '@libsql/client', 'bufferutil', 'utf-8-validate'],
        alias: { $lib: path.resolve(import.meta.dirname, 'src/lib') },
        define: { 'import.meta.url': '""' }
      });
      for (const input of Object.keys(result.metafile.inputs)) this.addWatchFile(path.resolve(input));
      return `export default ${JSON.stringify(result.outputFiles[0].text)};`;
    }
  };
}
