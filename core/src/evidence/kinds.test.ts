import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { KINDS, READ_INTO_VIEWS } from './kinds';

it('every kind of evidence is named by the README, with what is read of it', () => {
  const readme = readFileSync(new URL('../../../README.md', import.meta.url), 'utf8').replace(/ +/g, ' ');
  for (const { label, reads } of [...Object.values(READ_INTO_VIEWS), ...Object.values(KINDS)])
    expect(readme).toContain(`| ${label} | ${reads} |`);
});
