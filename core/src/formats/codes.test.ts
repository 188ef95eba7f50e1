import { readFileSync, writeFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { ERROR_CODES, WARNING_CODES } from './codes';

const DOCS = new URL('../../../docs/formats.md', import.meta.url);
const between = (about: string): RegExp =>
  new RegExp(`(<!-- codes: ${about} -->\n)([^]*?)(\n<!-- /codes -->)`);

const rows = (codes: Record<string, string>): string[] =>
  Object.entries(codes).map(([code, means]) => `| \`${code}\` | ${means} |`);
/** A table as it is laid out does not matter. */
const cells = (text: string): string[] =>
  text
    .split('\n')
    .filter((line) => line.startsWith('| `'))
    .map((line) => line.replace(/\s*\|\s*/g, '|'));

describe('the codes in docs/formats.md', () => {
  it.each([
    ['errors', ERROR_CODES],
    ['warnings', WARNING_CODES]
  ] as const)('of %s are those that are used', (about, codes) => {
    const table = ['| code | means |', '| --- | --- |', ...rows(codes)].join('\n');
    const docs = readFileSync(DOCS, 'utf8');
    if (process.env.UPDATE_DOCS === '1')
      writeFileSync(
        DOCS,
        docs.replace(between(about), (_, begin: string, __, end: string) => `${begin}\n${table}\n${end}`)
      );
    expect(cells(between(about).exec(readFileSync(DOCS, 'utf8'))?.[2] ?? '')).toEqual(
      cells(rows(codes).join('\n'))
    );
  });
});
