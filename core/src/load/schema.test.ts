import { readFileSync, writeFileSync } from 'node:fs';
import { toJsonSchema } from '@valibot/to-json-schema';
import { expect, it } from 'vitest';
import { RunFile } from './run-file';

const DOCS = new URL('../../../docs/load-run.schema.json', import.meta.url);

/** `UPDATE_DOCS=1 npx vitest run --root . core/src/load/schema`, then `npm run format`, writes it anew. */
it('the published JSON Schema of a load run is that of what is read', () => {
  const schema = {
    title: 'Load run of Tromix, version 1',
    // Checks beyond what the standard can say (a key that is not all zeros, addresses of HTTP) are the reader's.
    ...toJsonSchema(RunFile, { errorMode: 'ignore', typeMode: 'input' })
  };
  if (process.env.UPDATE_DOCS === '1') writeFileSync(DOCS, JSON.stringify(schema, null, 2));
  expect(JSON.parse(readFileSync(DOCS, 'utf8'))).toEqual(JSON.parse(JSON.stringify(schema)));
});
