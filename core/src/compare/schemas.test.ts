import { readFileSync, writeFileSync } from 'node:fs';
import { toJsonSchema } from '@valibot/to-json-schema';
import { expect, it } from 'vitest';
import { BudgetFile } from './budget';
import { CompareOutput } from './output-schema';

/** `UPDATE_DOCS=1 npx vitest run --root . core/src/compare/schemas`, then `npm run format`, writes them anew. */
it.each([
  // That a rule exists is checked by the reader.
  ['budget', 'Budget of Tromix, version 1', BudgetFile],
  ['compare', 'What `tromix compare --json` prints, version 1', CompareOutput]
] as const)('the published JSON Schema of %s is that of the code', (name, title, schema) => {
  const docs = new URL(`../../../docs/${name}.schema.json`, import.meta.url);
  const made = { title, ...toJsonSchema(schema, { errorMode: 'ignore', typeMode: 'input' }) };
  if (process.env.UPDATE_DOCS === '1') writeFileSync(docs, JSON.stringify(made, null, 2));
  expect(JSON.parse(readFileSync(docs, 'utf8'))).toEqual(JSON.parse(JSON.stringify(made)));
});
