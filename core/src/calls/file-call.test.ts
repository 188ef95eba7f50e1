import { describe, expect, it } from 'vitest';
import { templateFile } from '../trace/path-template';
import { filePattern, opensFile } from './file-call';

describe('file calls', () => {
  it.each([
    ['readFile', true],
    ['file readFile', true],
    ['fs.openSync', true],
    ['appendFile', true],
    ['Files.ReadAllText', true],
    ['stat', false],
    ['reopen', false],
    ['read', false]
  ])('%s opens a file: %s', (verb, opens) => {
    expect(opensFile({ verb, fingerprint: '' })).toBe(opens);
  });

  it('tells the path from the operation, also where both have blanks', () => {
    expect(filePattern({ fingerprint: 'file read /var/a b/{n}.log', verb: 'file read' })).toBe(
      '/var/a b/{n}.log'
    );
  });
});

describe('patterns of files', () => {
  it.each([
    ['/var/gauges/17.log', '/var/gauges/:id.log'],
    ['/var/17/notes', '/var/:id/notes'],
    ['/out/dues_2026-11-30.csv', '/out/dues_:id.csv'],
    ['/out/part-0003.parquet', '/out/part-:id.parquet'],
    ['/cache/3f2a9c1d7b.json', '/cache/:id.json'],
    ['/x/123e4567-e89b-12d3-a456-426614174000.json', '/x/:id.json'],
    ['C:\\gauges\\17.log', 'C:\\gauges\\:id.log'],
    // Names that hold a digit are no ids.
    ['/lib/http2.js', '/lib/http2.js'],
    ['/lib/v8/utf8.js', '/lib/v8/utf8.js'],
    ['/srv/berths.sqlite', '/srv/berths.sqlite'],
    ['/opt/node-20.18.1/lib/fs.js', '/opt/node-20.18.1/lib/fs.js'],
    ['/log/app.20261130.log', '/log/app.:id.log']
  ])('%s is %s', (path, pattern) => expect(templateFile(path)).toBe(pattern));
});
