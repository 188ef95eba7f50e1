import { readFileSync, writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { ALL_RULES } from './all-rules';
import { ruleTable } from './rule-table';

const DOCS = new URL('../../../docs/engine.md', import.meta.url);
const between = (about: string): RegExp =>
  new RegExp(`(<!-- rules: ${about} -->\n)([^]*?)(\n<!-- /rules -->)`);
/** A table as it is laid out does not matter. */
const cells = (table: string): string[] =>
  table
    .trim()
    .split('\n')
    .map((line) => line.replace(/\s*\|\s*/g, '|').replace(/-+/g, '-'));

/** `UPDATE_DOCS=1 npx vitest run --root . core/src/findings/rule-table`, then `npm run format`, writes the tables anew. */
describe('the tables of rules in docs/engine.md', () => {
  it.each(ALL_RULES)('of $about are those of the rules', ({ about, rules }) => {
    const docs = readFileSync(DOCS, 'utf8');
    const table = ruleTable(rules);
    if (process.env.UPDATE_DOCS === '1')
      writeFileSync(
        DOCS,
        docs.replace(between(about), (_, begin: string, __, end: string) => `${begin}\n${table}\n${end}`)
      );
    expect(cells(between(about).exec(readFileSync(DOCS, 'utf8'))?.[2] ?? '')).toEqual(cells(table));
  });

  it('have every rule once, with all there is to say of it', () => {
    const all = ALL_RULES.flatMap(({ rules }) => rules);
    expect(new Set(all.map(({ rule }) => rule)).size).toBe(all.length);
    for (const { looksFor, why, doThis, name } of all)
      for (const text of [looksFor, why, ...doThis, name]) expect(text).toMatch(/\S{2}/);
  });
});
