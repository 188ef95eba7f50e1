import { mkdir, mkdtemp, rm, symlink, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { sourceText } from './source-text';

let base: string;
let folder: string;
const LINES = Array.from({ length: 40 }, (_, i) => `line ${i + 1}`).join('\n');

beforeAll(async () => {
  base = await mkdtemp(path.join(os.tmpdir(), 'tromix-sources-'));
  folder = path.join(base, 'src');
  await mkdir(path.join(folder, 'berths'), { recursive: true });
  await writeFile(path.join(folder, 'berths/plan.ts'), LINES);
  await writeFile(path.join(base, 'secret.txt'), 'hush');
  await symlink(path.join(base, 'secret.txt'), path.join(folder, 'link.ts'));
  await writeFile(path.join(folder, 'built.js'), 'a();\nb();\n');
  // One mapping: line 2, column 0 of the built file is line 5, column 0 of the original (source map v3, VLQ "AAIA").
  await writeFile(
    path.join(folder, 'built.js.map'),
    JSON.stringify({
      version: 3,
      sources: ['rank.ts'],
      sourcesContent: [LINES],
      names: [],
      mappings: ';AAIA'
    })
  );
  await writeFile(path.join(folder, 'odd.js'), 'x');
  await writeFile(path.join(folder, 'odd.js.map'), 'not a map');
});
afterAll(() => rm(base, { recursive: true, force: true }));

const read = (file: string, line: number): ReturnType<typeof sourceText> => sourceText([folder], file, line);

describe('sourceText', () => {
  it('gives the lines around a place, for relative and absolute paths and file addresses', async () => {
    const answer = await read('berths/plan.ts', 20);
    expect(answer).toMatchObject({ ok: true, value: { file: 'berths/plan.ts', line: 20, from: 13 } });
    if (answer.ok) expect(answer.value.lines[7]).toBe('line 20');
    expect((await read(path.join(folder, 'berths/plan.ts'), 1)).ok).toBe(true);
    expect((await read(`file://${path.join(folder, 'berths/plan.ts')}`, 1)).ok).toBe(true);
  });

  it.each([
    '../secret.txt',
    'berths/../../secret.txt',
    '/etc/passwd',
    'link.ts',
    '',
    'berths',
    'a\0b',
    'none.ts'
  ])('does not leave the folder: %j', async (file) => expect((await read(file, 1)).ok).toBe(false));

  it('maps a built file back to its original', async () =>
    expect(await read('built.js', 2)).toMatchObject({
      ok: true,
      value: { file: 'rank.ts', line: 5, path: '' }
    }));

  it('shows the built file where its map does not fit', async () =>
    expect(await read('odd.js', 1)).toMatchObject({ ok: true, value: { file: 'odd.js', lines: ['x'] } }));

  it('says in words that no folder is configured', async () =>
    expect(await sourceText([], 'a.ts', 1)).toMatchObject({
      ok: false,
      message: expect.stringContaining('TROMIX_SOURCES')
    }));
});
