import { execFile } from 'node:child_process';
import path from 'node:path';
import { describe, expect, it } from 'vitest';
import { fromHere } from './start-server';
import { settingsOf } from './commands/serve';

const BIN = path.resolve(import.meta.dirname, '../bin/tromix.mjs');

interface Ended {
  code: number | null;
  out: string;
  error: string;
}
const tromix = (...args: string[]): Promise<Ended> =>
  new Promise((resolve) => {
    const child = execFile(process.execPath, [BIN, ...args], (_, out, error) =>
      resolve({ code: child.exitCode, out, error })
    );
  });

describe('the command line', () => {
  it('alone says what it can do', async () => {
    const { code, out } = await tromix();
    expect(code).toBe(0);
    for (const name of ['serve', 'demo', 'run', 'load', 'inspect', 'compare'])
      expect(out).toMatch(new RegExp(`^  ${name} `, 'm'));
    expect(out).toContain('Exit codes: 0 done');
  });

  it.each(['serve', 'demo', 'run', 'load', 'inspect', 'compare'])('helps with %s', async (name) => {
    const { code, out } = await tromix(name, '--help');
    expect(code).toBe(0);
    expect(out).toContain(`Usage: tromix ${name}`);
    expect(out).toContain('--help');
  });

  it.each([
    [['inspcet'], 'Did you mean inspect?'],
    [['inspect', '--jsn', 'x'], 'Did you mean --json?'],
    [['serve', '--prot', '1'], 'Did you mean --port?'],
    [['inspect'], 'missing required argument'],
    [['inspect', 'x', '--top', 'many'], 'Expected an integer from 0.']
  ])('refuses %j with the nearest right one, and exits with 2', async (args, words) => {
    const { code, out, error } = await tromix(...args);
    expect({ code, out }).toEqual({ code: 2, out: '' });
    expect(error).toContain(words);
  });

  it('names its version', async () => expect((await tromix('--version')).out).toMatch(/^\d+\.\d+\.\d+\n$/));
});

describe('settings of a server that is started from a folder', () => {
  it('name folders as seen from there', () => {
    const found = fromHere(
      { TROMIX_DATA: '.tromix', TROMIX_SOURCES: 'src, /srv/app', TROMIX_WATCH: '', PORT: '1' },
      '/quay'
    );
    expect(found).toEqual({
      TROMIX_DATA: '/quay/.tromix',
      TROMIX_SOURCES: '/quay/src,/srv/app',
      TROMIX_WATCH: '',
      PORT: '1'
    });
  });
  it('come from options where they are given', () =>
    expect(settingsOf({ port: '80', data: 'here' })).toEqual({ PORT: '80', TROMIX_DATA: 'here' }));
});
