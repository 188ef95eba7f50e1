// Runs a TypeScript entry with line numbers kept: `node run.mjs src/service.ts`.
import { register } from 'node:module';
import { pathToFileURL } from 'node:url';
import path from 'node:path';

register('./typescript-loader.mjs', import.meta.url);
await import(
  pathToFileURL(path.resolve(import.meta.dirname ?? new URL('.', import.meta.url).pathname, process.argv[2]))
    .href
);
