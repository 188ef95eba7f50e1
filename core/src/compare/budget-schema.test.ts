import { readFileSync, writeFileSync } from 'node:fs';
import { toJsonSchema } from '@valibot/to-json-schema';
import { expect, it } from 'vitest';
import { BudgetFile } from './budget';

const DOCS = new URL('../../../docs/budget.schema.json', import.meta.url);

/** `UPDATE_DOCS=1 npx vitest run --root . core/src/compare/budget-schema`, then `npm run format`, writes it anew. */
it('the published JSON Schema of a budget is that of what is read', () => {
  const schema = {
    title: 'Budget of Tromix, version 1',
    // That a rule exists is checked by the reader.
    ...toJsonSchema(BudgetFile, { errorMode: 'ignore', typeMode: 'input' })
  };
  if (process.env.UPDATE_DOCS === '1') writeFileSync(DOCS, JSON.stringify(schema, null, 2));
  expect(JSON.parse(readFileSync(DOCS, 'utf8'))).toEqual(JSON.parse(JSON.stringify(schema)));
});
